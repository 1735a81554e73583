/** Marks of rows that decide where keys go. */
import { mysqlTable, primaryKey, varchar } from 'drizzle-orm/mysql-core';
import { id } from '../database/columns.ts';

export const markTable = mysqlTable(
  'row_marks',
  {
    kind: varchar('kind', { length: 20 }).notNull(),
    rowId: varchar('row_id', { length: 60 }).notNull(),
    /** Null of what belongs to no site: the rig beside a server. */
    siteId: id('site_id'),
    /** HMAC-SHA-256 under the trail's key, of the kind, the row's name and what stands in it. */
    mac: varchar('mac', { length: 64 }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.kind, t.rowId] })],
);
