/** What waits for a second person. */
import { index, mysqlTable, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

export const approvalTable = mysqlTable(
  'approvals',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    /** The operator that it is about; null where they are to be added. */
    subjectId: id('subject_id'),
    what: varchar('what', { length: 400 }).notNull(),
    /** What is to be done; null once it is settled. */
    act: json('act'),
    /** open, agreed or refused. */
    state: varchar('state', { length: 10 }).notNull(),
    askedById: id('asked_by_id').notNull(),
    askedBy: varchar('asked_by', { length: 120 }).notNull(),
    askedAt: instant('asked_at').notNull(),
    endsAt: instant('ends_at').notNull(),
  },
  (t) => [index('approvals_open').on(t.siteId, t.state, t.askedAt)],
);
