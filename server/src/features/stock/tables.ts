/** Filters of the cards that were given a name, for everybody at the site. */
import { mysqlTable, unique, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

export const savedFilterTable = mysqlTable(
  'saved_filters',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    filter: json('filter').notNull(),
    savedBy: varchar('saved_by', { length: 120 }).notNull(),
    savedAt: instant('saved_at').notNull(),
  },
  (t) => [unique('saved_filters_once').on(t.siteId, t.name)],
);
