/** What holds for the whole installation. */
import { mysqlTable, varchar } from 'drizzle-orm/mysql-core';

/** What holds for the whole installation: the fingerprint of the trail's key, which repairs were made. */
export const installationTable = mysqlTable('installation', {
  name: varchar('name', { length: 60 }).primaryKey(),
  value: varchar('value', { length: 400 }).notNull(),
});
