/** The marks of organisations, as they stand on badges. */
import { longtext, mysqlTable, primaryKey, varchar } from 'drizzle-orm/mysql-core';
import { id } from '../../platform/database/columns.ts';

export const markTable = mysqlTable(
  'organisation_marks',
  {
    siteId: id('site_id').notNull(),
    /** As cardholders have it, in small letters; empty for the site itself. */
    organisation: varchar('organisation', { length: 120 }).notNull(),
    /** A PNG in base64. */
    data: longtext('data').notNull(),
  },
  (t) => [primaryKey({ columns: [t.siteId, t.organisation] })],
);
