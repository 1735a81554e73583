/** Translations between two outputs of one card. */
import { mysqlTable, text, unique, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

export const translationTable = mysqlTable(
  'translations',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    notes: text('notes').notNull(),
    definition: json('definition').notNull(),
    createdBy: varchar('created_by', { length: 120 }).notNull(),
    createdAt: instant('created_at').notNull(),
  },
  (t) => [unique('translations_once').on(t.siteId, t.name)],
);
