/** Reads. */
import { index, int, mysqlTable, varchar } from 'drizzle-orm/mysql-core';
import { id, instant } from '../../platform/database/columns.ts';

export const readTable = mysqlTable(
  'reads',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    at: instant('at').notNull(),
    bits: varchar('bits', { length: 512 }).notNull(),
    hex: varchar('hex', { length: 128 }).notNull(),
    length: int('length').notNull(),
    source: varchar('source', { length: 10 }).notNull(),
    notation: varchar('notation', { length: 60 }),
    readerId: id('reader_id'),
  },
  (t) => [index('reads_by_time').on(t.siteId, t.at)],
);
