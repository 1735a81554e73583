/**
 * Instants that decide whether something is over. A clock can run ahead for a while, and be put right: what was written
 * meanwhile lies in the future, and would not be over until that comes. One that lies ahead by more than a minute is taken to
 * be over. Leases, which one server gives up to another, go by the database's clock, which is the same for all of them.
 */
import { and, gt, lt, type SQL, sql } from 'drizzle-orm';
import type { MySqlColumn } from 'drizzle-orm/mysql-core';

/** Clocks of servers differ by less. */
const AHEAD_MS = 60_000;

/** The database's own time, for what is to be set. */
export const dbNow: SQL<Date> = sql<Date>`NOW(3)`;

/** Whether an instant is not as long ago as that, nor ahead. */
export const isWithin = (at: Date, ms: number, now = Date.now()): boolean =>
  now - at.getTime() < ms && at.getTime() - now < AHEAD_MS;

/** Whether an end that was set at most so long before is still to come. */
export const isToCome = (at: Date, mostMs: number, now = Date.now()): boolean =>
  at.getTime() > now && at.getTime() < now + mostMs + AHEAD_MS;

/** Whether somebody was heard within a time by the database's clock. */
export const heardWithin = (column: MySqlColumn, ms: number): SQL =>
  sql`(${column} > NOW(3) - INTERVAL ${ms * 1000} MICROSECOND AND ${column} < NOW(3) + INTERVAL ${AHEAD_MS * 1000} MICROSECOND)`;

/** Whether somebody was not heard for a time by the database's clock. */
export const silentFor = (column: MySqlColumn, ms: number): SQL =>
  sql`(${column} <= NOW(3) - INTERVAL ${ms * 1000} MICROSECOND OR ${column} >= NOW(3) + INTERVAL ${AHEAD_MS * 1000} MICROSECOND)`;

/** As `isToCome`, of a column. */
export const endsWithin = (column: MySqlColumn, mostMs: number, now = new Date()): SQL | undefined =>
  and(gt(column, now), lt(column, new Date(now.getTime() + mostMs + AHEAD_MS)));

/** Whether an instant is past, as far as clocks agree: nothing was begun in the future. */
export const isPast = (column: MySqlColumn, now = new Date()): SQL => lt(column, new Date(now.getTime() + AHEAD_MS));
