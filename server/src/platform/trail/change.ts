/**
 * Change: the one way in which anything is written. The change, its trail entries and its announcements on the live
 * feed stand in one transaction or not at all. The chain's row is taken last, so that its lock is short, and held
 * until the commit, so that numbers become visible in their order.
 */

import type { FeedEntry } from '@rawbits/api';
import { canonicalJson } from '@rawbits/core/access';
import { and, asc, eq, gt } from 'drizzle-orm';
import { inTransaction, isDuplicate, type Queryable } from '../database/index.ts';
import { feedTable } from '../feed/tables.ts';
import { noteHead } from './anchor.ts';
import type { TrailApp } from './app.ts';
import type { Anchor } from './keeper.ts';
import { chainTable, requestTable, trailTable } from './tables.ts';

/** The chain of what belongs to no site: operators, sign-ins, the format library. */
export const HOUSE = 'house';

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
  const { result, heads } = await inTransaction(app.db, async (tx) => {
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
    // Always in one order, the house's row last, so that two changes never wait for one another.
    const order = [...noted].sort(([a], [b]) => Number(a === HOUSE) - Number(b === HOUSE) || (a < b ? -1 : 1));
    const heads = [];
    for (const [name, pending] of order) heads.push({ name, moved: await writeChain(app, tx, who, name, pending) });
    return { result, heads };
  });
  if (once) once.taken = true;
  for (const { name, moved } of heads) if (moved) await noteHead(app, name, moved.from, moved.to);
  app.live.nudge();
  return result;
}

async function takeKey(tx: Queryable, operatorId: string, { key, fingerprint }: Once): Promise<void> {
  try {
    await tx.insert(requestTable).values({ operatorId, requestKey: key, fingerprint, answer: null, at: new Date() });
  } catch (error) {
    throw isDuplicate(error) ? new DoneBefore() : error;
  }
}

interface Moved {
  from: Anchor;
  to: Anchor;
}

async function writeChain(
  app: TrailApp,
  tx: Queryable,
  who: Who,
  chain: string,
  pending: Pending,
): Promise<Moved | undefined> {
  if (pending.trail.length > 0) pending.feed.push({ kind: 'trail', data: {} });
  if (pending.feed.length === 0) return undefined;
  const [row] = await tx.select().from(chainTable).where(eq(chainTable.id, chain)).for('update');
  if (!row) throw new Error(`the chain ${chain} is missing`);
  const at = new Date();
  const from = { seq: row.trailSeq, hash: row.trailHead };
  const to = await writeEntries(app, tx, who, chain, from, pending.trail, at);
  let { feedSeq } = row;
  if (chain !== HOUSE) {
    for (const { kind, data } of pending.feed)
      await tx.insert(feedTable).values({ siteId: chain, seq: ++feedSeq, at, kind, data });
  }
  await tx.update(chainTable).set({ trailSeq: to.seq, trailHead: to.hash, feedSeq }).where(eq(chainTable.id, chain));
  return pending.trail.length > 0 ? { from, to } : undefined;
}

/** Writes entries after a head and gives the new one. What is hashed is what the database gives back: it is asked. */
async function writeEntries(
  app: TrailApp,
  tx: Queryable,
  who: Who,
  chain: string,
  from: Anchor,
  entries: Pending['trail'],
  at: Date,
): Promise<Anchor> {
  let { seq, hash } = from;
  if (entries.length === 0) return from;
  const rows = entries.map((entry) => {
    const chained = {
      chain,
      seq: ++seq,
      at,
      operatorId: who.id,
      operator: clip(who.name, 120),
      ...entry,
      previous: hash,
    };
    hash = app.trail.hashOf(chained);
    return { ...chained, hash };
  });
  await tx.insert(trailTable).values(rows);
  const kept = await tx
    .select()
    .from(trailTable)
    .where(and(eq(trailTable.chain, chain), gt(trailTable.seq, from.seq)))
    .orderBy(asc(trailTable.seq));
  const faithful = kept.length === rows.length && kept.every((row, i) => app.trail.hashOf(row) === rows[i]!.hash);
  if (!faithful) throw new Error('the database keeps something else than was to be noted in the trail');
  return { seq, hash };
}

/** Makes the row of a chain, with the thing that it belongs to. */
export async function openChain(tx: Queryable, chain: string): Promise<void> {
  await tx.insert(chainTable).values({ id: chain });
}
