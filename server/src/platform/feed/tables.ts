/** The live feed. */
import { bigint, index, mysqlTable, primaryKey, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../database/columns.ts';

export const feedTable = mysqlTable(
  'feed',
  {
    siteId: id('site_id').notNull(),
    /** Made by whoever wrote it, sorting by when. */
    name: id('name').notNull(),
    /** Its number at the site; given in order when it is numbered, a moment after it was committed. */
    seq: bigint('seq', { mode: 'number' }),
    at: instant('at').notNull(),
    kind: varchar('kind', { length: 20 }).notNull(),
    data: json('data').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.siteId, t.name] }),
    uniqueIndex('feed_by_number').on(t.siteId, t.seq),
    index('feed_by_time').on(t.at),
  ],
);
