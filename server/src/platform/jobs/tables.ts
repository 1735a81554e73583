/** Work that goes on after the request that began it was answered. */
import { index, int, mysqlTable, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../database/columns.ts';

export const jobTable = mysqlTable(
  'jobs',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    kind: varchar('kind', { length: 20 }).notNull(),
    /** What it is about, such as a controller's identifier; empty where it is about the site. */
    subject: id('subject').notNull().default(''),
    /** What only one running job can have, on whichever server it was begun; null where that does not matter, and at its end. */
    slot: varchar('slot', { length: 80 }),
    /** running, done, failed, cancelled, or what the feature makes of it afterwards. */
    state: varchar('state', { length: 10 }).notNull(),
    done: int('done').notNull().default(0),
    total: int('total').notNull().default(0),
    message: varchar('message', { length: 400 }).notNull().default(''),
    /** What is to be done. */
    input: json('input').notNull(),
    /** How far it is, for whoever goes on with it. */
    memo: json('memo').notNull(),
    result: json('result'),
    startedBy: varchar('started_by', { length: 120 }).notNull(),
    startedAt: instant('started_at').notNull(),
    /** When its carrier said last that it lives: one that is silent has lost its server and is gone on with by another. */
    heardAt: instant('heard_at').notNull(),
    /** Whoever carries it on; a server that finds another name here has lost it and stops. */
    carrier: id('carrier').notNull(),
    /** Written by whoever changes something that the job works through, so that of the two one comes first. */
    guard: int('guard').notNull().default(0),
  },
  (t) => [
    uniqueIndex('jobs_by_slot').on(t.slot),
    index('jobs_by_subject').on(t.kind, t.subject, t.startedAt),
    index('jobs_by_site').on(t.siteId, t.kind, t.startedAt),
    index('jobs_by_state').on(t.state, t.heardAt),
  ],
);

export type JobRow = typeof jobTable.$inferSelect;
