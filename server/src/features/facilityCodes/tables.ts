/** Facility codes. */
import { int, mysqlTable, text, unique, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

export const facilityCodeTable = mysqlTable(
  'facility_codes',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    /** Empty where the code is not of one format. */
    formatId: id('format_id').notNull().default(''),
    code: varchar('code', { length: 40 }).notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    notes: text('notes').notNull(),
    orderedBy: varchar('ordered_by', { length: 120 }).notNull().default(''),
    orderedFrom: instant('ordered_from'),
    /** Ranges of numbers kept for something: `{from, to, note}`, decimals. Null where there are none. */
    reserved: json('reserved'),
    revision: int('revision').notNull().default(1),
  },
  (t) => [unique('facility_codes_once').on(t.siteId, t.formatId, t.code)],
);
