/** How far the log of a rig has been taken in. */
import { bigint, mysqlTable } from 'drizzle-orm/mysql-core';
import { id } from '../../platform/database/columns.ts';

/** How far the log of a rig has been taken in; `epoch` tells one rig's memory from the next. */
export const rigCursorTable = mysqlTable('rig_cursors', {
  epoch: id('epoch').primaryKey(),
  seq: bigint('seq', { mode: 'number' }).notNull(),
  /** The entry last taken in: where the log has another under that number, it is not the log that it was. */
  entry: id('entry').notNull().default(''),
});
