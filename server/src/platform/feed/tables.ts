/** The live feed. */
import { bigint, mysqlTable, primaryKey, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../database/columns.ts';

export const feedTable = mysqlTable(
  'feed',
  {
    siteId: id('site_id').notNull(),
    seq: bigint('seq', { mode: 'number' }).notNull(),
    at: instant('at').notNull(),
    kind: varchar('kind', { length: 20 }).notNull(),
    data: json('data').notNull(),
  },
  (t) => [primaryKey({ columns: [t.siteId, t.seq] })],
);
