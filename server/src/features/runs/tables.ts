/** Runs: the cards of each, what was done to every card, and which pads a run has. */
import { index, int, mysqlTable, primaryKey, smallint, unique, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

export const runTable = mysqlTable(
  'runs',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    kind: varchar('kind', { length: 12 }).notNull(),
    planId: id('plan_id').notNull(),
    version: smallint('version').notNull(),
    /** Of a hand-back: the plan's name of the key that opens the grant. */
    under: varchar('under', { length: 120 }),
    takesUsed: int('takes_used').notNull().default(0),
    /** going, stopped, done or cancelled. */
    state: varchar('state', { length: 10 }).notNull(),
    wanted: int('wanted').notNull(),
    done: int('done').notNull().default(0),
    amiss: int('amiss').notNull().default(0),
    /** How long its finished cards took, all together. */
    workedMs: int('worked_ms').notNull().default(0),
    /** Written by whoever takes a card of it, so that two pads never take the same. */
    guard: int('guard').notNull().default(0),
    startedBy: varchar('started_by', { length: 120 }).notNull(),
    startedAt: instant('started_at').notNull(),
    endedAt: instant('ended_at'),
  },
  (t) => [index('runs_by_site').on(t.siteId, t.startedAt), index('runs_by_plan').on(t.planId)],
);
export type RunRow = typeof runTable.$inferSelect;

export const runCardTable = mysqlTable(
  'run_cards',
  {
    runId: id('run_id').notNull(),
    seq: int('seq').notNull(),
    siteId: id('site_id').notNull(),
    cardId: id('card_id'),
    uid: varchar('uid', { length: 20 }),
    state: varchar('state', { length: 10 }).notNull(),
    /** The card on file while its number is this run's to put on a blank; null at other times: no two runs have it. */
    holds: id('holds'),
    message: varchar('message', { length: 400 }).notNull().default(''),
    tries: int('tries').notNull().default(0),
    begunAt: instant('begun_at'),
    endedAt: instant('ended_at'),
  },
  (t) => [
    primaryKey({ columns: [t.runId, t.seq] }),
    unique('run_cards_by_uid').on(t.runId, t.uid),
    unique('run_cards_hold').on(t.holds),
    index('run_cards_by_state').on(t.runId, t.state, t.seq),
    index('run_cards_by_chip').on(t.siteId, t.uid),
  ],
);
export type RunCardRow = typeof runCardTable.$inferSelect;

/** What was about to be done to a card, written before it was done; and what then went to and fro. */
export const runStepTable = mysqlTable(
  'run_steps',
  {
    runId: id('run_id').notNull(),
    seq: int('seq').notNull(),
    n: int('n').notNull(),
    siteId: id('site_id').notNull(),
    step: json('step').notNull(),
    at: instant('at').notNull(),
    exchange: json('exchange'),
  },
  (t) => [primaryKey({ columns: [t.runId, t.seq, t.n] })],
);
