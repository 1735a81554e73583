/** Chip plans with their versions, and which cards carry which of them. */
import { index, int, mysqlTable, primaryKey, smallint, text, unique, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

export const planTable = mysqlTable(
  'plans',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    kind: varchar('kind', { length: 10 }).notNull(),
    current: smallint('current').notNull(),
    /** Written by whoever adds a version or starts a run, so that of two the second sees what the first did. */
    guard: int('guard').notNull().default(0),
    createdAt: instant('created_at').notNull(),
  },
  (t) => [unique('plans_once').on(t.siteId, t.name)],
);

export const planVersionTable = mysqlTable(
  'plan_versions',
  {
    planId: id('plan_id').notNull(),
    version: smallint('version').notNull(),
    siteId: id('site_id').notNull(),
    definition: json('definition').notNull(),
    notes: text('notes').notNull(),
    /** Of each assertion whether it holds, and the keys of whoever breaks it. */
    held: json('held').notNull(),
    /** How many cards carry it, kept as they come and go. */
    cards: int('cards').notNull().default(0),
    madeBy: varchar('made_by', { length: 120 }).notNull(),
    madeAt: instant('made_at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.planId, t.version] }), index('plan_versions_by_site').on(t.siteId)],
);

/** How many cards of a version have which versions of its keys, kept as they come and go. */
export const planLevelTable = mysqlTable(
  'plan_levels',
  {
    planId: id('plan_id').notNull(),
    version: smallint('version').notNull(),
    /** SHA-256 of the keys and their versions, in hex. */
    level: varchar('level', { length: 64 }).notNull(),
    siteId: id('site_id').notNull(),
    keys: json('keys').notNull(),
    cards: int('cards').notNull(),
  },
  (t) => [primaryKey({ columns: [t.planId, t.version, t.level] }), index('plan_levels_by_site').on(t.siteId)],
);

/** A chip that a run has begun or finished, by the identifier that it has for good. */
export const encodedTable = mysqlTable(
  'encoded_cards',
  {
    siteId: id('site_id').notNull(),
    uid: varchar('uid', { length: 20 }).notNull(),
    planId: id('plan_id').notNull(),
    version: smallint('version').notNull(),
    /** The card on file whose number it carries; null where it carries none. */
    cardId: id('card_id'),
    /** begun, whole, or given up: one that was begun and is freed when it comes back. */
    state: varchar('state', { length: 10 }).notNull(),
    runId: id('run_id').notNull(),
    seq: int('seq').notNull(),
    /** Of each of the plan’s keys which version it has. */
    keys: json('keys').notNull(),
    at: instant('at').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.siteId, t.uid] }),
    index('encoded_by_plan').on(t.siteId, t.planId, t.version),
    index('encoded_by_card').on(t.cardId),
  ],
);
export type EncodedRow = typeof encodedTable.$inferSelect;

/** Readers that are set up by a plan: which field they read, and the versions of the keys that they were given. */
export const readerPlanTable = mysqlTable('reader_plans', {
  readerId: id('reader_id').primaryKey(),
  siteId: id('site_id').notNull(),
  planId: id('plan_id').notNull(),
  version: smallint('version').notNull(),
  field: varchar('field', { length: 80 }).notNull(),
  settings: json('settings').notNull(),
  /** Of each of the plan’s keys which version the reader has, and its check value. */
  keys: json('keys').notNull(),
  setBy: varchar('set_by', { length: 120 }).notNull(),
  setAt: instant('set_at').notNull(),
});
