/** Device hosts, and what servers ask of one that is connected to another server. */
import { index, int, mysqlTable, primaryKey, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../platform/database/columns.ts';

export const deviceHostTable = mysqlTable(
  'device_hosts',
  {
    id: id('id').primaryKey(),
    /** Null while nobody has taken in what it offers. */
    siteId: id('site_id'),
    name: varchar('name', { length: 120 }).notNull(),
    kind: varchar('kind', { length: 10 }).notNull(),
    /** SHA-256 of its token: 192 random bits or more, so that it needs no salt. */
    tokenHash: varchar('token_hash', { length: 64 }).notNull(),
    madeBy: varchar('made_by', { length: 120 }).notNull(),
    madeAt: instant('made_at').notNull(),
    revokedAt: instant('revoked_at'),
    /** The server to which it dialled in last. */
    server: id('server'),
    /** Counts its connections: a server that finds another number here has lost it. */
    fence: int('fence').notNull().default(0),
    heardAt: instant('heard_at'),
    /** The kinds of devices that its token was made for (`deviceSorts`); null in rows from before it was asked. */
    allows: json('allows'),
    /** The public half of the pair that it made when it dialled in last; keyed with its identifier and the connection's number. */
    publicKey: varchar('public_key', { length: 400 }),
    publicKeyMac: varchar('public_key_mac', { length: 64 }),
    /** The identifiers of the devices that it offered last. */
    offers: json('offers').notNull(),
  },
  (t) => [uniqueIndex('device_hosts_by_token').on(t.tokenHash), index('device_hosts_by_site').on(t.siteId)],
);
export type HostRow = typeof deviceHostTable.$inferSelect;

export const deviceCallTable = mysqlTable(
  'device_calls',
  {
    id: id('id').primaryKey(),
    hostId: id('host_id').notNull(),
    method: varchar('method', { length: 20 }).notNull(),
    params: json('params').notNull(),
    at: instant('at').notNull(),
    /** The server that carries it to the host; null while none has taken it. */
    takenBy: id('taken_by'),
    /** `{ result }` or `{ error }`; null until the host has answered. */
    answer: json('answer'),
  },
  (t) => [index('device_calls_by_host').on(t.hostId, t.takenBy, t.at)],
);

/** Pads that somebody works at for a while, such as a run: nobody else selects a card there meanwhile. */
export const padClaimTable = mysqlTable(
  'pad_claims',
  {
    siteId: id('site_id').notNull(),
    pad: varchar('pad', { length: 90 }).notNull(),
    claimedBy: id('claimed_by').notNull(),
    /** How it stands, for people. */
    tells: json('tells').notNull(),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.siteId, t.pad] }), index('pad_claims_by').on(t.claimedBy)],
);
