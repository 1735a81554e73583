/**
 * Change: the one way in which anything is written. The change, its trail entries and its announcements on the live
 * feed stand in one transaction or not at all. Entries are keyed where they are written and sealed into their chain a
 * moment later (`seal.ts`), so that writers at one site do not wait for one another.
 */

import type { FeedEntry } from '@rawbits/api';
import { canonicalJson } from '@rawbits/core/access';
import { sql } from 'drizzle-orm';
import { inTransaction, isDuplicate, orderedId, type Queryable } from '../database/index.ts';
import { feedTable } from '../feed/tables.ts';
import { chunks } from '../lists/lists.ts';
import type { TrailApp } from './app.ts';
import type { WrittenEntry } from './keeper.ts';
import { chainTable, HOUSE, requestTable, trailTable } from './tables.ts';

export { HOUSE };

/** In place of an operator's id where nobody is known: a failed sign-in under no one's name. */
export const UNKNOWN_OPERATOR = 'unknown';

interface Noted {
  action: string;
  subject: string;
  before?: unknown;
  after?: unknown;
}

export interface Record {
  /** Notes who did what; `before` or `after` is undefined where there was or is nothing. */
  trail(entry: Noted): void;
  /** Notes on the house's chain, in the same transaction, what a change to a site did to the library. */
  houseTrail(entry: Noted): void;
  /** Notes on another site's chain, in the same transaction, what a change did to that site. */
  trailAt(site: string, entry: Noted): void;
  /** Tells those who follow the site; `data` names which (`Which`) wherever that is known. */
  announce(kind: FeedEntry['kind'], data?: unknown): void;
}

interface Pending {
  trail: { action: string; subject: string; before: string; after: string }[];
  feed: { kind: FeedEntry['kind']; data: unknown }[];
}

/** The key of a request that is to be carried out once; `taken` once a change under it has committed. */
export interface Once {
  key: string;
  fingerprint: string;
  taken: boolean;
}

export interface Who {
  id: string;
  name: string;
  once?: Once;
}

/** Thrown where another try of the same request has committed already. */
export class DoneBefore extends Error {}

/** At most `most` characters, none of them cut in two. */
const clip = (text: string, most: number): string => [...text.toWellFormed()].slice(0, most).join('');

const noteOn =
  (pending: Pending) =>
  ({ action, subject, before, after }: Noted): void =>
    void pending.trail.push({
      action,
      subject: clip(subject, 200),
      before: canonicalJson(before),
      after: canonicalJson(after),
    });

/** Runs `work` in a transaction and writes what it recorded onto the chain of `chain` (a site's id, or the house). */
export async function change<T>(
  app: TrailApp,
  who: Who,
  chain: string,
  work: (tx: Queryable, record: Record) => Promise<T>,
): Promise<T> {
  const once = who.once?.taken ? undefined : who.once;
  const { result, chains } = await inTransaction(app.db, async (tx) => {
    if (once) await takeKey(tx, who.id, once);
    const noted = new Map<string, Pending>();
    const pendingOf = (name: string): Pending => {
      const pending = noted.get(name) ?? { trail: [], feed: [] };
      noted.set(name, pending);
      return pending;
    };
    const result = await work(tx, {
      trail: noteOn(pendingOf(chain)),
      houseTrail: (entry) => noteOn(pendingOf(HOUSE))(entry),
      trailAt: (site, entry) => noteOn(pendingOf(site))(entry),
      announce: (kind, data = {}) => pendingOf(chain).feed.push({ kind, data }),
    });
    if ([...noted.values()].some((pending) => isWork(who, pending))) app.aboutToChange?.();
    for (const [name, pending] of noted) await write(app, tx, who, name, pending);
    return { result, chains: [...noted.keys()] };
  });
  if (once) once.taken = true;
  for (const chain of chains) app.sealer.soon(chain);
  return result;
}

/** What is done by itself, and signing in, is nobody's work. */
const isWork = ({ id }: Who, { trail, feed }: Pending): boolean =>
  id !== 'server' && (feed.length > 0 || trail.some(({ action }) => !/^sign/.test(action)));

async function takeKey(tx: Queryable, operatorId: string, { key, fingerprint }: Once): Promise<void> {
  try {
    await tx.insert(requestTable).values({ operatorId, requestKey: key, fingerprint, answer: null, at: new Date() });
  } catch (error) {
    throw isDuplicate(error) ? new DoneBefore() : error;
  }
}

/** Writes what was recorded for a chain: keyed entries and announcements, numbered and sealed a moment later. */
async function write(app: TrailApp, tx: Queryable, who: Who, chain: string, pending: Pending): Promise<void> {
  const at = new Date();
  await writeEntries(app, tx, who, chain, pending.trail, at);
  if (pending.trail.length > 0) pending.feed.push({ kind: 'trail', data: {} });
  if (chain === HOUSE || pending.feed.length === 0) return;
  await tx.insert(feedTable).values(pending.feed.map((entry) => ({ siteId: chain, name: orderedId(), at, ...entry })));
}

/** A row as the database gives it back to the statement that wrote it. */
type KeptRow = Omit<WrittenEntry, 'at' | 'operatorId'> & { at: string; operator_id: string };

const readBack = ({ at, operator_id, ...row }: KeptRow): WrittenEntry => ({
  ...row,
  at: new Date(`${at.replace(' ', 'T')}Z`),
  operatorId: operator_id,
});

/** So many entries of one change go in one statement: more might be longer than the database takes. */
const A_PIECE = 500;

/** What is keyed is what the database gives back: it is asked. */
async function writeEntries(
  app: TrailApp,
  tx: Queryable,
  who: Who,
  chain: string,
  entries: Pending['trail'],
  at: Date,
): Promise<void> {
  for (const some of chunks(entries, A_PIECE)) await writePiece(app, tx, who, chain, some, at);
}

async function writePiece(
  app: TrailApp,
  tx: Queryable,
  who: Who,
  chain: string,
  entries: Pending['trail'],
  at: Date,
): Promise<void> {
  const rows = entries.map((entry) => {
    const written = { chain, name: orderedId(), at, operatorId: who.id, operator: clip(who.name, 120), ...entry };
    return { ...written, mac: app.trail.macOf(written) };
  });
  const values = rows.map((row) => {
    const { chain, name, operatorId, operator, action, subject, before, after, mac } = row;
    const at = sql.param(row.at, trailTable.at);
    return sql`(${chain}, ${name}, ${at}, ${operatorId}, ${operator}, ${action}, ${subject}, ${before}, ${after}, ${mac})`;
  });
  const [kept] = (await tx.execute(sql`
    INSERT INTO ${trailTable} (chain, name, at, operator_id, operator, action, subject, \`before\`, \`after\`, mac)
    VALUES ${sql.join(values, sql`, `)}
    RETURNING chain, name, at, operator_id, operator, action, subject, \`before\`, \`after\``)) as unknown as [
    KeptRow[],
  ];
  const faithful =
    kept.length === rows.length && kept.every((row, i) => app.trail.macOf(readBack(row)) === rows[i]!.mac);
  if (!faithful) throw new Error('the database keeps something else than was to be noted in the trail');
}

/** Makes the row of a chain, with the thing that it belongs to. */
export async function openChain(tx: Queryable, chain: string): Promise<void> {
  await tx.insert(chainTable).values({ id: chain });
}
