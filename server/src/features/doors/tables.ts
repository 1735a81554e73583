/** Controllers, readers, loads, and what happened at the doors. */
import { sql } from 'drizzle-orm';
import { boolean, index, int, longtext, mysqlTable, primaryKey, text, unique, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

export const controllerTable = mysqlTable(
  'controllers',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    device: varchar('device', { length: 60 }).notNull(),
    comparesFacility: boolean('compares_facility').notNull(),
    /** From before loads went by item: what was loaded last. Taken over into items at the first start, then null. */
    loadedImage: json('loaded_image'),
    /** The digest of what it holds, as it was confirmed by the device; null before the first load. */
    loadedDigest: varchar('loaded_digest', { length: 64 }),
    loadedAt: instant('loaded_at'),
    loadedCards: int('loaded_cards').notNull().default(0),
  },
  (t) => [unique('controllers_once').on(t.siteId, t.device)],
);

export const controllerFormatTable = mysqlTable(
  'controller_formats',
  { controllerId: id('controller_id').notNull(), formatId: id('format_id').notNull() },
  (t) => [primaryKey({ columns: [t.controllerId, t.formatId] })],
);

/**
 * What a controller should have and what it has, an item a row: a format, a card, or a setting, each under its key and by
 * its revision (a format's version, a card's revision). A card that is neither wanted nor loaded has no row.
 */
export const controllerItemTable = mysqlTable(
  'controller_items',
  {
    controllerId: id('controller_id').notNull(),
    item: varchar('item', { length: 60 }).notNull(),
    wanted: int('wanted'),
    /** Null where the controller has none; -1 where it has something that Raw Bits did not load. */
    loaded: int('loaded'),
    /** The hash of the item as it is loaded. */
    hash: varchar('hash', { length: 64 }),
    /** What is loaded, as the controller has it; null where it was loaded before this was kept, or not by Raw Bits. */
    content: longtext('content'),
    /** The load that has sent it, until it takes force, with the number of the piece, the revision and what was sent. */
    sentBy: id('sent_by'),
    sentPiece: int('sent_piece'),
    sent: int('sent'),
    sentHash: varchar('sent_hash', { length: 64 }),
    sentContent: longtext('sent_content'),
    waits: boolean('waits').generatedAlwaysAs(sql`not (wanted <=> loaded)`, { mode: 'stored' }),
  },
  (t) => [
    primaryKey({ columns: [t.controllerId, t.item] }),
    index('controller_items_waiting').on(t.controllerId, t.waits, t.item),
    index('controller_items_sent').on(t.controllerId, t.sentBy, t.item),
  ],
);

export const readerTable = mysqlTable(
  'readers',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    kind: varchar('kind', { length: 20 }).notNull(),
    device: varchar('device', { length: 60 }).notNull(),
    controllerId: id('controller_id'),
    /** The door that it is at, and on which side; null where it is for enrolment. */
    doorId: id('door_id'),
    way: varchar('way', { length: 3 }).notNull().default('in'),
  },
  (t) => [unique('readers_once').on(t.siteId, t.device), index('readers_by_door').on(t.doorId)],
);

export const doorTable = mysqlTable(
  'doors',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    controllerId: id('controller_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    /** Whether access groups say who passes; anybody with an active card does otherwise. */
    byGroups: boolean('by_groups').notNull().default(false),
    revision: int('revision').notNull().default(1),
  },
  (t) => [index('doors_by_controller').on(t.controllerId), index('doors_by_site').on(t.siteId)],
);

/**
 * What a controller should have of doors, groups, schedules and the calendar, as texts: their revision here is the one that
 * its items go by.
 */
export const controllerWantTable = mysqlTable(
  'controller_wants',
  {
    controllerId: id('controller_id').notNull(),
    item: varchar('item', { length: 60 }).notNull(),
    text: longtext('text').notNull(),
    revision: int('revision').notNull(),
  },
  (t) => [primaryKey({ columns: [t.controllerId, t.item] })],
);

export const eventTable = mysqlTable(
  'events',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    at: instant('at').notNull(),
    kind: varchar('kind', { length: 20 }).notNull(),
    controllerId: id('controller_id'),
    readerId: id('reader_id'),
    readId: id('read_id'),
    bits: varchar('bits', { length: 512 }),
    outcome: varchar('outcome', { length: 10 }),
    stoppedAt: varchar('stopped_at', { length: 20 }),
    formatId: id('format_id'),
    reason: text('reason').notNull(),
    advice: text('advice'),
    cardId: id('card_id'),
    holder: varchar('holder', { length: 120 }),
    /** The steps of a reader that reads chips. */
    chip: json('chip'),
  },
  (t) => [
    index('events_by_time').on(t.siteId, t.at),
    index('events_by_controller').on(t.controllerId, t.at),
    index('events_by_card').on(t.cardId, t.at),
  ],
);

/** The names of controllers and readers that were removed: events and reads go on naming them. */
export const formerDeviceTable = mysqlTable(
  'former_devices',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    /** controller or reader. */
    kind: varchar('kind', { length: 10 }).notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    removedAt: instant('removed_at').notNull(),
  },
  (t) => [index('former_devices_by_site').on(t.siteId)],
);

export type ControllerRow = typeof controllerTable.$inferSelect;
