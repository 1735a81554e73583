/** Cases, and their specimens as rows. */
import { index, int, mysqlTable, primaryKey, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

/** Identifications under way. */
export const caseTable = mysqlTable(
  'cases',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    revision: int('revision').notNull().default(1),
    /** How many specimens it has: those are rows of their own. */
    specimenCount: int('specimen_count').notNull().default(0),
    /** What is asked of the case: prints to predict, the range of the box. */
    questions: json('questions').notNull(),
    /** The format that came of it, once one did; and how far it was settled then, for which range. */
    formatId: id('format_id'),
    settledFor: json('settled_for'),
    createdBy: varchar('created_by', { length: 120 }).notNull(),
    createdAt: instant('created_at').notNull(),
    changedAt: instant('changed_at').notNull(),
  },
  (t) => [index('cases_by_site').on(t.siteId, t.changedAt)],
);

/** The specimens of a case in their order: what is typed of one is one row, however many there are. */
export const caseSpecimenTable = mysqlTable(
  'case_specimens',
  {
    caseId: id('case_id').notNull(),
    /** From 0, without gaps. */
    position: int('position').notNull(),
    siteId: id('site_id').notNull(),
    specimen: json('specimen').notNull(),
  },
  (t) => [primaryKey({ columns: [t.caseId, t.position] }), index('case_specimens_by_site').on(t.siteId)],
);
