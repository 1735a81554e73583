/** Who may pass what, and when, as a site keeps it: its calendar, schedules, access groups, who is in them, and assertions. */
import { index, int, longtext, mysqlTable, unique, varchar } from 'drizzle-orm/mysql-core';
import { id, json } from '../../platform/database/columns.ts';

/** A site's holidays; its row is written by every change of what is in these tables, so that they come one after another. */
export const calendarTable = mysqlTable('calendars', {
  siteId: id('site_id').primaryKey(),
  holidays: json('holidays').notNull(),
  revision: int('revision').notNull().default(1),
  guard: int('guard').notNull().default(1),
});

export const scheduleTable = mysqlTable(
  'schedules',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    periods: json('periods').notNull(),
    onHolidays: json('on_holidays').notNull(),
    revision: int('revision').notNull().default(1),
  },
  (t) => [unique('schedules_once').on(t.siteId, t.name)],
);

export const accessGroupTable = mysqlTable(
  'access_groups',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    /** Doors, each in or out or both, with the schedule. */
    rights: longtext('rights').notNull(),
    revision: int('revision').notNull().default(1),
  },
  (t) => [unique('access_groups_once').on(t.siteId, t.name)],
);

/**
 * A set of access groups that somebody is in, or that a card has of its own: kept once, however many share it, so that
 * what holds for all who share it is worked out once.
 */
export const groupSetTable = mysqlTable(
  'group_sets',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    /** Ids of access groups, rising. */
    groups: json('groups').notNull(),
  },
  (t) => [index('group_sets_by_site').on(t.siteId)],
);

export const assertionTable = mysqlTable(
  'access_assertions',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    definition: longtext('definition').notNull(),
    revision: int('revision').notNull().default(1),
  },
  (t) => [unique('access_assertions_once').on(t.siteId, t.name)],
);
