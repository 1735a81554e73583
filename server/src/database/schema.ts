/**
 * The database. Everything but the format library belongs to one site. Identifiers are random, so that they can be
 * made on any node of a cluster; instants are UTC with milliseconds.
 */
import {
  bigint,
  boolean,
  customType,
  datetime,
  index,
  int,
  longtext,
  mysqlTable,
  primaryKey,
  text,
  unique,
  varchar,
} from 'drizzle-orm/mysql-core';

const id = (name: string) => varchar(name, { length: 40 });
const instant = (name: string) => datetime(name, { fsp: 3, mode: 'date' });

/** JSON kept as text: MariaDB's JSON is text too, and so it comes back parsed on every server. */
const json = customType<{ data: unknown; driverData: string }>({
  dataType: () => 'longtext',
  toDriver: (value) => JSON.stringify(value ?? null),
  fromDriver: (value) => JSON.parse(value),
});

export const sites = mysqlTable('sites', {
  id: id('id').primaryKey(),
  name: varchar('name', { length: 120 }).notNull(),
  shortName: varchar('short_name', { length: 24 }).notNull(),
  hasRig: boolean('has_rig').notNull().default(false),
  /** Written by whoever takes or gives administrators, before they count who is left: so one of two waits. */
  guard: int('guard').notNull().default(0),
  createdAt: instant('created_at').notNull(),
});

/** What holds for the whole installation: the fingerprint of the trail's key, which repairs were made. */
export const installation = mysqlTable('installation', {
  name: varchar('name', { length: 60 }).primaryKey(),
  value: varchar('value', { length: 400 }).notNull(),
});

/**
 * Requests that named a key of their own, so that sending one again does not do it twice. The row is written with the
 * change that the request makes; its answer follows and may be missing where the server stopped in between.
 */
export const requests = mysqlTable(
  'requests',
  {
    operatorId: id('operator_id').notNull(),
    requestKey: varchar('request_key', { length: 80 }).notNull(),
    /** SHA-256 of method, path and body. */
    fingerprint: varchar('fingerprint', { length: 64 }).notNull(),
    answer: longtext('answer'),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.operatorId, t.requestKey] }), index('requests_by_time').on(t.at)],
);

/**
 * One row a site, and one named `house` for what belongs to none. Whoever writes to a site's trail or feed holds this
 * row, so their numbers are without gaps and become visible in their order.
 */
export const chains = mysqlTable('chains', {
  id: id('id').primaryKey(),
  trailSeq: bigint('trail_seq', { mode: 'number' }).notNull().default(0),
  trailHead: varchar('trail_head', { length: 64 }).notNull().default(''),
  feedSeq: bigint('feed_seq', { mode: 'number' }).notNull().default(0),
});

export const operators = mysqlTable('operators', {
  id: id('id').primaryKey(),
  login: varchar('login', { length: 40 }).notNull().unique('operators_login'),
  name: varchar('name', { length: 120 }).notNull(),
  passwordHash: varchar('password_hash', { length: 255 }).notNull(),
  mustChangePassword: boolean('must_change_password').notNull(),
  closedAt: instant('closed_at'),
  createdAt: instant('created_at').notNull(),
});

export const operatorSites = mysqlTable(
  'operator_sites',
  {
    operatorId: id('operator_id').notNull(),
    siteId: id('site_id').notNull(),
    role: varchar('role', { length: 20 }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.operatorId, t.siteId] })],
);

export const sessions = mysqlTable('sessions', {
  /** SHA-256 of the token in the cookie; the token itself is kept nowhere. */
  tokenHash: varchar('token_hash', { length: 64 }).primaryKey(),
  operatorId: id('operator_id').notNull(),
  createdAt: instant('created_at').notNull(),
  usedAt: instant('used_at').notNull(),
  /** The absolute end; a session not used for a while ends earlier. */
  expiresAt: instant('expires_at').notNull(),
});

export const signInFailures = mysqlTable('sign_in_failures', {
  /** `pair NAME CLIENT`, `name NAME` or `client ADDRESS`. */
  source: varchar('source', { length: 120 }).primaryKey(),
  count: int('count').notNull(),
  lastAt: instant('last_at').notNull(),
  blockedUntil: instant('blocked_until').notNull(),
});

export const formats = mysqlTable('formats', {
  id: id('id').primaryKey(),
  currentVersion: int('current_version').notNull(),
  createdAt: instant('created_at').notNull(),
  retiredAt: instant('retired_at'),
});

/** A saved version is never changed. */
export const formatVersions = mysqlTable(
  'format_versions',
  {
    formatId: id('format_id').notNull(),
    version: int('version').notNull(),
    definition: json('definition').notNull(),
    layout: text('layout').notNull(),
    reason: varchar('reason', { length: 400 }).notNull(),
    createdBy: varchar('created_by', { length: 120 }).notNull(),
    createdAt: instant('created_at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.formatId, t.version] })],
);

export const siteFormats = mysqlTable(
  'site_formats',
  { siteId: id('site_id').notNull(), formatId: id('format_id').notNull(), version: int('version').notNull() },
  (t) => [primaryKey({ columns: [t.siteId, t.formatId] })],
);

export const facilityCodes = mysqlTable(
  'facility_codes',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    /** Empty where the code is not of one format. */
    formatId: id('format_id').notNull().default(''),
    code: varchar('code', { length: 40 }).notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    notes: text('notes').notNull(),
    orderedBy: varchar('ordered_by', { length: 120 }).notNull().default(''),
    orderedFrom: instant('ordered_from'),
    /** Ranges of numbers kept for something: `{from, to, note}`, decimals. Null where there are none. */
    reserved: json('reserved'),
    revision: int('revision').notNull().default(1),
  },
  (t) => [unique('facility_codes_once').on(t.siteId, t.formatId, t.code)],
);

export const reads = mysqlTable(
  'reads',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    at: instant('at').notNull(),
    bits: varchar('bits', { length: 512 }).notNull(),
    hex: varchar('hex', { length: 128 }).notNull(),
    length: int('length').notNull(),
    source: varchar('source', { length: 10 }).notNull(),
    notation: varchar('notation', { length: 60 }),
    readerId: id('reader_id'),
  },
  (t) => [index('reads_by_time').on(t.siteId, t.at)],
);

export const cardholders = mysqlTable(
  'cardholders',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    department: varchar('department', { length: 120 }).notNull(),
  },
  (t) => [index('cardholders_by_site').on(t.siteId, t.name)],
);

export const cards = mysqlTable(
  'cards',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    formatId: id('format_id').notNull(),
    /** Empty where the format has none, so that the key below still holds. */
    facility: varchar('facility', { length: 40 }).notNull(),
    number: varchar('number', { length: 160 }).notNull(),
    printed: varchar('printed', { length: 80 }).notNull(),
    /**
     * The bits that the card itself delivers, as its format was when it was entered: a later change of the format does
     * not change the card. Null where they could not be worked out.
     */
    bits: varchar('bits', { length: 512 }),
    state: varchar('state', { length: 20 }).notNull(),
    holderId: id('holder_id'),
    validFrom: instant('valid_from'),
    validTo: instant('valid_to'),
    notes: text('notes').notNull(),
    revision: int('revision').notNull().default(1),
    createdAt: instant('created_at').notNull(),
  },
  (t) => [
    unique('cards_once').on(t.siteId, t.formatId, t.facility, t.number),
    index('cards_by_number').on(t.siteId, t.number),
  ],
);

export const controllers = mysqlTable(
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

export const controllerFormats = mysqlTable(
  'controller_formats',
  { controllerId: id('controller_id').notNull(), formatId: id('format_id').notNull() },
  (t) => [primaryKey({ columns: [t.controllerId, t.formatId] })],
);

export const readers = mysqlTable(
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

export const loads = mysqlTable(
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

export const events = mysqlTable(
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

/** How far the log of a rig has been taken in; `epoch` tells one rig's memory from the next. */
export const rigCursors = mysqlTable('rig_cursors', {
  epoch: id('epoch').primaryKey(),
  seq: bigint('seq', { mode: 'number' }).notNull(),
  /** The entry last taken in: where the log has another under that number, it is not the log that it was. */
  entry: id('entry').notNull().default(''),
});

export const feed = mysqlTable(
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

export const trail = mysqlTable(
  'trail',
  {
    chain: id('chain').notNull(),
    seq: bigint('seq', { mode: 'number' }).notNull(),
    at: instant('at').notNull(),
    operatorId: id('operator_id').notNull(),
    operator: varchar('operator', { length: 120 }).notNull(),
    action: varchar('action', { length: 80 }).notNull(),
    subject: varchar('subject', { length: 200 }).notNull(),
    /** Canonical JSON, exactly as it was hashed. */
    before: longtext('before').notNull(),
    after: longtext('after').notNull(),
    previous: varchar('previous', { length: 64 }).notNull(),
    hash: varchar('hash', { length: 64 }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.chain, t.seq] })],
);

/**
 * The cards on which a version of a format has proved itself: accepted at a door, or specimens of a case. A card is
 * known by a hash of its site and bits, so it counts once however often it is presented.
 */
export const formatEvidence = mysqlTable(
  'format_evidence',
  {
    formatId: id('format_id').notNull(),
    version: int('version').notNull(),
    card: varchar('card', { length: 64 }).notNull(),
    source: varchar('source', { length: 20 }).notNull(),
    sourceId: id('source_id').notNull(),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.formatId, t.version, t.card] })],
);

export const translations = mysqlTable(
  'translations',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    notes: text('notes').notNull(),
    definition: json('definition').notNull(),
    createdBy: varchar('created_by', { length: 120 }).notNull(),
    createdAt: instant('created_at').notNull(),
  },
  (t) => [unique('translations_once').on(t.siteId, t.name)],
);

export const dryRuns = mysqlTable(
  'dry_runs',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    change: json('change').notNull(),
    /** running, done, cancelled, failed, or applied. */
    state: varchar('state', { length: 10 }).notNull(),
    done: int('done').notNull(),
    total: int('total').notNull(),
    message: varchar('message', { length: 400 }).notNull(),
    result: json('result'),
    /** What the cards, formats and controllers of the site were when it ran: a change is saved on these only. */
    basis: varchar('basis', { length: 64 }).notNull(),
    startedBy: varchar('started_by', { length: 120 }).notNull(),
    startedAt: instant('started_at').notNull(),
    /** A running one whose server stopped says nothing for a while and counts as failed. */
    heardAt: instant('heard_at').notNull(),
  },
  (t) => [index('dry_runs_by_site').on(t.siteId, t.startedAt)],
);

/** Identifications under way. The specimens are one document: a case is read, changed and kept as a whole. */
export const cases = mysqlTable(
  'cases',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    revision: int('revision').notNull().default(1),
    specimens: json('specimens').notNull(),
    /** What is asked of the case: prints to predict, the range of the box. */
    questions: json('questions').notNull(),
    /** The format that came of it, once one did. */
    formatId: id('format_id'),
    createdBy: varchar('created_by', { length: 120 }).notNull(),
    createdAt: instant('created_at').notNull(),
    changedAt: instant('changed_at').notNull(),
  },
  (t) => [index('cases_by_site').on(t.siteId, t.changedAt)],
);
