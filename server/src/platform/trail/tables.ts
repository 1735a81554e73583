/** The trail: its chains, its entries, and the requests that were carried out. */
import { bigint, index, longtext, mysqlTable, primaryKey, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import { id, instant } from '../database/columns.ts';

/**
 * Requests that named a key of their own, so that sending one again does not do it twice. The row is written with the
 * change that the request makes; its answer follows and may be missing where the server stopped in between.
 */
export const requestTable = mysqlTable(
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

/** The chain of what belongs to no site: operators, sign-ins, the format library. */
export const HOUSE = 'house';

/**
 * One row a site, and one named `house` for what belongs to none: how far its entries are sealed and its feed is
 * numbered. Whoever seals writes this row, so that numbers are without gaps and become visible in their order.
 */
export const chainTable = mysqlTable('chains', {
  id: id('id').primaryKey(),
  trailSeq: bigint('trail_seq', { mode: 'number' }).notNull().default(0),
  trailHead: varchar('trail_head', { length: 64 }).notNull().default(''),
  feedSeq: bigint('feed_seq', { mode: 'number' }).notNull().default(0),
});

export const trailTable = mysqlTable(
  'trail',
  {
    chain: id('chain').notNull(),
    /** Made by whoever wrote it, sorting by when; entries from before there were names have their number. */
    name: id('name').notNull(),
    /** Its number in the chain; none while it is not sealed yet. */
    seq: bigint('seq', { mode: 'number' }),
    at: instant('at').notNull(),
    operatorId: id('operator_id').notNull(),
    operator: varchar('operator', { length: 120 }).notNull(),
    action: varchar('action', { length: 80 }).notNull(),
    subject: varchar('subject', { length: 200 }).notNull(),
    /** Canonical JSON, exactly as it was hashed. */
    before: longtext('before').notNull(),
    after: longtext('after').notNull(),
    /** Keyed hash of the entry itself, made when it was written; empty in entries from before they had one. */
    mac: varchar('mac', { length: 64 }).notNull().default(''),
    previous: varchar('previous', { length: 64 }).notNull().default(''),
    hash: varchar('hash', { length: 64 }).notNull().default(''),
  },
  (t) => [
    primaryKey({ columns: [t.chain, t.name] }),
    uniqueIndex('trail_by_number').on(t.chain, t.seq),
    index('trail_by_time').on(t.chain, t.at),
    index('trail_by_subject').on(t.chain, t.subject, t.name),
  ],
);
