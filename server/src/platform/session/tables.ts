/** Operators, their roles, their sessions, and failed sign-ins. */
import { boolean, index, int, mysqlTable, primaryKey, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../database/columns.ts';

export const operatorTable = mysqlTable('operators', {
  id: id('id').primaryKey(),
  login: varchar('login', { length: 40 }).notNull().unique('operators_login'),
  name: varchar('name', { length: 120 }).notNull(),
  passwordHash: varchar('password_hash', { length: 255 }).notNull(),
  mustChangePassword: boolean('must_change_password').notNull(),
  closedAt: instant('closed_at'),
  createdAt: instant('created_at').notNull(),
});

export const operatorSiteTable = mysqlTable(
  'operator_sites',
  {
    operatorId: id('operator_id').notNull(),
    siteId: id('site_id').notNull(),
    role: varchar('role', { length: 20 }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.operatorId, t.siteId, t.role] })],
);

export const sessionTable = mysqlTable('sessions', {
  /** SHA-256 of the token in the cookie; the token itself is kept nowhere. */
  tokenHash: varchar('token_hash', { length: 64 }).primaryKey(),
  operatorId: id('operator_id').notNull(),
  createdAt: instant('created_at').notNull(),
  usedAt: instant('used_at').notNull(),
  /** The absolute end; a session not used for a while ends earlier. */
  expiresAt: instant('expires_at').notNull(),
});

/** Tokens for scripts. Of a token only the SHA-256 of its secret is kept. */
export const tokenTable = mysqlTable(
  'api_tokens',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    operatorId: id('operator_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    permissions: json('permissions').notNull(),
    hash: varchar('hash', { length: 64 }).notNull(),
    madeAt: instant('made_at').notNull(),
    endsAt: instant('ends_at').notNull(),
    revokedAt: instant('revoked_at'),
    usedAt: instant('used_at'),
  },
  (t) => [index('api_tokens_by_site').on(t.siteId, t.madeAt)],
);

export const signInFailureTable = mysqlTable('sign_in_failures', {
  /** `pair NAME CLIENT`, `name NAME` or `client ADDRESS`. */
  source: varchar('source', { length: 120 }).primaryKey(),
  count: int('count').notNull(),
  lastAt: instant('last_at').notNull(),
  blockedUntil: instant('blocked_until').notNull(),
});
