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

/** Readers at which an operator waits for the next card; a row whose time is over counts for nothing. */
export const armedReaderTable = mysqlTable(
  'armed_readers',
  {
    readerId: id('reader_id').primaryKey(),
    siteId: id('site_id').notNull(),
    operatorId: id('operator_id').notNull(),
    operator: varchar('operator', { length: 120 }).notNull(),
    until: instant('until').notNull(),
    /** What was read while it was armed. */
    readId: id('read_id'),
  },
  (t) => [index('armed_readers_by_site').on(t.siteId)],
);
