/** Keys: sets, keys, versions in envelopes, their components; requests that take two; backups; who holds what. */
import {
  index,
  int,
  longtext,
  mysqlTable,
  primaryKey,
  smallint,
  text,
  unique,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

export const keySetTable = mysqlTable(
  'key_sets',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    notes: text('notes').notNull(),
    createdAt: instant('created_at').notNull(),
  },
  (t) => [unique('key_sets_once').on(t.siteId, t.name)],
);

export const keyTable = mysqlTable(
  'keys',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    setId: id('set_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    kind: varchar('kind', { length: 10 }).notNull(),
    purpose: varchar('purpose', { length: 30 }).notNull(),
    notes: text('notes').notNull(),
    /** The version in use; null until one is ready. */
    current: smallint('current'),
    /** Written by whoever gives a component or destroys a version, so that of two the second sees what the first did. */
    guard: int('guard').notNull().default(0),
    createdAt: instant('created_at').notNull(),
    retiredAt: instant('retired_at'),
  },
  (t) => [unique('keys_once').on(t.setId, t.name), index('keys_by_site').on(t.siteId)],
);

export const keyVersionTable = mysqlTable(
  'key_versions',
  {
    keyId: id('key_id').notNull(),
    version: smallint('version').notNull(),
    siteId: id('site_id').notNull(),
    /** The key, bound to site, set, key, name, kind and version; null while it waits for components, and once destroyed. */
    envelope: varchar('envelope', { length: 200 }),
    checkValue: varchar('check_value', { length: 6 }),
    checkOf: varchar('check_of', { length: 10 }),
    /** made, typed, components, imported or restored. */
    origin: varchar('origin', { length: 12 }).notNull(),
    warning: varchar('warning', { length: 200 }).notNull().default(''),
    /** How many components it is put together from; 0 where it is not. */
    parts: smallint('parts').notNull().default(0),
    /** How many cards on file carry it, kept as they come and go. */
    cards: int('cards').notNull().default(0),
    /** What its check value has to be when its last component is in; null where that is not known. */
    wantedCheck: varchar('wanted_check', { length: 6 }),
    validFrom: instant('valid_from'),
    validTo: instant('valid_to'),
    madeBy: varchar('made_by', { length: 120 }).notNull(),
    madeAt: instant('made_at').notNull(),
    destroyedAt: instant('destroyed_at'),
  },
  (t) => [primaryKey({ columns: [t.keyId, t.version] }), index('key_versions_by_site').on(t.siteId)],
);

export const componentTable = mysqlTable(
  'key_components',
  {
    keyId: id('key_id').notNull(),
    version: smallint('version').notNull(),
    part: smallint('part').notNull(),
    siteId: id('site_id').notNull(),
    custodianId: id('custodian_id').notNull(),
    custodian: varchar('custodian', { length: 120 }).notNull(),
    checkValue: varchar('check_value', { length: 6 }).notNull(),
    /** Null once the key has been put together. */
    envelope: varchar('envelope', { length: 200 }),
    givenAt: instant('given_at').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.keyId, t.version, t.part] }),
    uniqueIndex('key_components_one_each').on(t.keyId, t.version, t.custodianId),
    index('key_components_by_site').on(t.siteId),
  ],
);

export const keyRequestTable = mysqlTable(
  'key_requests',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    /** uncover, destroy, backup or abandon. */
    kind: varchar('kind', { length: 10 }).notNull(),
    keyId: id('key_id'),
    version: smallint('version'),
    what: varchar('what', { length: 400 }).notNull(),
    reason: varchar('reason', { length: 400 }).notNull(),
    /** Of a backup the first part of its passphrase, of what is sealed under one the whole, in an envelope. Null once it is settled. */
    sealed: varchar('sealed', { length: 1000 }),
    /** Of what is to be sealed for a partner: for whom, which keys, and what they are for. */
    about: json('about'),
    /** open, agreed, done or refused. */
    state: varchar('state', { length: 10 }).notNull(),
    askedById: id('asked_by_id').notNull(),
    askedBy: varchar('asked_by', { length: 120 }).notNull(),
    askedAt: instant('asked_at').notNull(),
    agreedBy: varchar('agreed_by', { length: 120 }),
    endsAt: instant('ends_at').notNull(),
  },
  (t) => [index('key_requests_open').on(t.siteId, t.state, t.askedAt)],
);

/**
 * What a key may be used for, as JSON (`use.ts`); `sealed` is its SHA-256 in an envelope under the store key, bound to the key,
 * so that nobody writes one without the store open.
 */
export const keyUseTable = mysqlTable(
  'key_uses',
  {
    keyId: id('key_id').primaryKey(),
    siteId: id('site_id').notNull(),
    use: json('use').notNull(),
    sealed: varchar('sealed', { length: 200 }).notNull(),
  },
  (t) => [index('key_uses_by_site').on(t.siteId)],
);

/** New uses of keys that wait for a custodian. */
export const keyUseRequestTable = mysqlTable(
  'key_use_requests',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    /** plan, reader, pad, widen or accept. */
    kind: varchar('kind', { length: 10 }).notNull(),
    what: varchar('what', { length: 400 }).notNull(),
    /** What exactly is asked for (`useRequests.ts`). */
    about: json('about').notNull(),
    /** open, agreed or refused. */
    state: varchar('state', { length: 10 }).notNull(),
    askedById: id('asked_by_id').notNull(),
    askedBy: varchar('asked_by', { length: 120 }).notNull(),
    askedAt: instant('asked_at').notNull(),
    settledBy: varchar('settled_by', { length: 120 }),
    settledAt: instant('settled_at'),
  },
  (t) => [index('key_use_requests_open').on(t.siteId, t.state, t.askedAt)],
);

export const keyBackupTable = mysqlTable(
  'key_backups',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    jwe: longtext('jwe').notNull(),
    keys: int('keys').notNull(),
    madeAt: instant('made_at').notNull(),
    firstBy: varchar('first_by', { length: 120 }).notNull(),
    secondBy: varchar('second_by', { length: 120 }).notNull(),
    rehearsedAt: instant('rehearsed_at'),
    rehearsedBy: varchar('rehearsed_by', { length: 120 }),
  },
  (t) => [index('key_backups_by_site').on(t.siteId, t.madeAt)],
);

export const keyHoldingTable = mysqlTable(
  'key_holdings',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    keyId: id('key_id').notNull(),
    version: smallint('version').notNull(),
    /** person, reader, partner or plan. */
    kind: varchar('kind', { length: 10 }).notNull(),
    holderId: id('holder_id').notNull().default(''),
    holder: varchar('holder', { length: 120 }).notNull(),
    /** whole or part. */
    what: varchar('what', { length: 10 }).notNull(),
    how: varchar('how', { length: 200 }).notNull(),
    since: instant('since').notNull(),
    until: instant('until'),
  },
  (t) => [index('key_holdings_by_key').on(t.siteId, t.keyId, t.version)],
);

/** Which version of a key a card carries: what tells whether an old one is still about. */
export const cardKeyTable = mysqlTable(
  'card_keys',
  {
    cardId: id('card_id').notNull(),
    keyId: id('key_id').notNull(),
    version: smallint('version').notNull(),
    siteId: id('site_id').notNull(),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.cardId, t.keyId] }), index('card_keys_by_version').on(t.siteId, t.keyId, t.version)],
);

export const systemIdentifierTable = mysqlTable(
  'system_identifiers',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    bytes: varchar('bytes', { length: 60 }).notNull(),
    notes: text('notes').notNull(),
  },
  (t) => [unique('system_identifiers_once').on(t.siteId, t.name)],
);
