/** Controllers, readers, loads, and what happened at the doors. */
import { boolean, index, int, mysqlTable, primaryKey, text, unique, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

export const controllerTable = mysqlTable(
  'controllers',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    device: varchar('device', { length: 60 }).notNull(),
    comparesFacility: boolean('compares_facility').notNull(),
    /** The image last loaded, as it was confirmed by the device. */
    loadedImage: json('loaded_image'),
    loadedDigest: varchar('loaded_digest', { length: 64 }),
    loadedAt: instant('loaded_at'),
  },
  (t) => [unique('controllers_once').on(t.siteId, t.device)],
);

export const controllerFormatTable = mysqlTable(
  'controller_formats',
  { controllerId: id('controller_id').notNull(), formatId: id('format_id').notNull() },
  (t) => [primaryKey({ columns: [t.controllerId, t.formatId] })],
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
  },
  (t) => [unique('readers_once').on(t.siteId, t.device)],
);

export const loadTable = mysqlTable(
  'loads',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    controllerId: id('controller_id').notNull(),
    state: varchar('state', { length: 10 }).notNull(),
    done: int('done').notNull(),
    total: int('total').notNull(),
    message: varchar('message', { length: 400 }).notNull(),
    startedBy: varchar('started_by', { length: 120 }).notNull(),
    startedAt: instant('started_at').notNull(),
    /** A running load whose server stopped says nothing for a while and may be taken over. */
    heardAt: instant('heard_at').notNull(),
    /** What is sent, while it runs: whoever takes a lost load over can tell by its digest whether it took force. */
    image: json('image'),
    digest: varchar('digest', { length: 64 }).notNull().default(''),
  },
  (t) => [index('loads_by_controller').on(t.controllerId, t.startedAt), index('loads_by_state').on(t.state, t.heardAt)],
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
  },
  (t) => [index('events_by_time').on(t.siteId, t.at), index('events_by_controller').on(t.controllerId, t.at)],
);
