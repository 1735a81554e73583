/**
 * Columns that every table shares. Identifiers are random, so that they can be made on any node of a cluster; instants
 * are UTC with milliseconds. Everything but the format library belongs to one site.
 */
import { customType, datetime, varchar } from 'drizzle-orm/mysql-core';

export const id = (name: string) => varchar(name, { length: 40 });
export const instant = (name: string) => datetime(name, { fsp: 3, mode: 'date' });

/** JSON kept as text: MariaDB's JSON is text too, and so it comes back parsed on every server. */
export const json = customType<{ data: unknown; driverData: string }>({
  dataType: () => 'longtext',
  toDriver: (value) => JSON.stringify(value ?? null),
  fromDriver: (value) => JSON.parse(value),
});
