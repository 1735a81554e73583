/** Cases. */
import { index, int, mysqlTable, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

/** Identifications under way. The specimens are one document: a case is read, changed and kept as a whole. */
export const caseTable = mysqlTable(
  'cases',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    revision: int('revision').notNull().default(1),
    specimens: json('specimens').notNull(),
    /** What is asked of the case: prints to predict, the range of the box. */
    questions: json('questions').notNull(),
    /** The format that came of it, once one did. */
    formatId: id('format_id'),
    createdBy: varchar('created_by', { length: 120 }).notNull(),
    createdAt: instant('created_at').notNull(),
    changedAt: instant('changed_at').notNull(),
  },
  (t) => [index('cases_by_site').on(t.siteId, t.changedAt)],
);
