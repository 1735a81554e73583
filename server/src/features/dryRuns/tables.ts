/** Dry runs. */
import { index, int, mysqlTable, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

export const dryRunTable = mysqlTable(
  'dry_runs',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    change: json('change').notNull(),
    /** running, done, cancelled, failed, or applied. */
    state: varchar('state', { length: 10 }).notNull(),
    done: int('done').notNull(),
    total: int('total').notNull(),
    message: varchar('message', { length: 400 }).notNull(),
    result: json('result'),
    /** What the cards, formats and controllers of the site were when it ran: a change is saved on these only. */
    basis: varchar('basis', { length: 64 }).notNull(),
    startedBy: varchar('started_by', { length: 120 }).notNull(),
    startedAt: instant('started_at').notNull(),
    /** A running one whose server stopped says nothing for a while and counts as failed. */
    heardAt: instant('heard_at').notNull(),
  },
  (t) => [index('dry_runs_by_site').on(t.siteId, t.startedAt)],
);
