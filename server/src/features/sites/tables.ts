/** Sites. */
import { boolean, int, mysqlTable, varchar } from 'drizzle-orm/mysql-core';
import { id, instant } from '../../platform/database/columns.ts';

export const siteTable = mysqlTable('sites', {
  id: id('id').primaryKey(),
  name: varchar('name', { length: 120 }).notNull(),
  shortName: varchar('short_name', { length: 24 }).notNull(),
  /** Of the IANA database: where the days of the site begin and end. */
  timeZone: varchar('time_zone', { length: 60 }).notNull().default('UTC'),
  hasRig: boolean('has_rig').notNull().default(false),
  /** Written by whoever takes or gives administrators, before they count who is left: so one of two waits. */
  guard: int('guard').notNull().default(0),
  createdAt: instant('created_at').notNull(),
});
