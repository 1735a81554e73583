/**
 * Change: the one way in which anything is written. The change, its trail entries and its announcements on the live
 * feed stand in one transaction or not at all. The chain's row is taken last, so that its lock is short, and held
 * until the commit, so that numbers become visible in their order.
 */
import { canonicalJson } from '@rawbits/core/access';
import type { FeedEntry } from '@rawbits/core/api';
import { eq } from 'drizzle-orm';
import { inTransaction, type Queryable, tables } from '../database/index.ts';
import type { App } from '../http/app.ts';

/** The chain of what belongs to no site: operators, the format library. */
export const HOUSE = 'house';

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
  announce(kind: FeedEntry['kind'], data?: unknown): void;
}

interface Pending {
  trail: { action: string; subject: string; before: string; after: string }[];
  feed: { kind: FeedEntry['kind']; data: unknown }[];
}

export interface Who {
  id: string;
  name: string;
}

/** Runs `work` in a transaction and writes what it recorded onto the chain of `chain` (a site's id, or the house). */
export async function change<T>(
  app: App,
  who: Who,
  chain: string,
  work: (tx: Queryable, record: Record) => Promise<T>,
): Promise<T> {
  const { result, heads } = await inTransaction(app.db, async (tx) => {
    const own: Pending = { trail: [], feed: [] };
    const house: Pending = { trail: [], feed: [] };
    const note =
      (pending: Pending) =>
      ({ action, subject, before, after }: Noted) =>
        void pending.trail.push({
          action,
          subject: subject.slice(0, 200),
          before: canonicalJson(before),
          after: canonicalJson(after),
        });
    const result = await work(tx, {
      trail: note(own),
      houseTrail: note(chain === HOUSE ? own : house),
      announce: (kind, data = {}) => own.feed.push({ kind, data }),
    });
    // The house's row is always taken last, so that two changes never wait for one another.
    const heads = [
      { chain, head: await writeChain(app, tx, who, chain, own) },
      { chain: HOUSE, head: await writeChain(app, tx, who, HOUSE, house) },
    ];
    return { result, heads };
  });
  for (const { chain: name, head } of heads) if (head) app.trail.remember(name, head);
  app.live.nudge();
  return result;
}

async function writeChain(app: App, tx: Queryable, who: Who, chain: string, pending: Pending) {
  if (pending.trail.length > 0) pending.feed.push({ kind: 'trail', data: {} });
  if (pending.feed.length === 0) return undefined;
  const [row] = await tx.select().from(tables.chains).where(eq(tables.chains.id, chain)).for('update');
  if (!row) throw new Error(`the chain ${chain} is missing`);
  const at = new Date();
  let { trailSeq, trailHead, feedSeq } = row;
  for (const entry of pending.trail) {
    const chained = {
      chain,
      seq: ++trailSeq,
      at,
      operatorId: who.id,
      operator: who.name,
      ...entry,
      previous: trailHead,
    };
    trailHead = app.trail.hashOf(chained);
    await tx.insert(tables.trail).values({ ...chained, hash: trailHead });
  }
  if (chain !== HOUSE) {
    for (const { kind, data } of pending.feed)
      await tx.insert(tables.feed).values({ siteId: chain, seq: ++feedSeq, at, kind, data });
  }
  await tx.update(tables.chains).set({ trailSeq, trailHead, feedSeq }).where(eq(tables.chains.id, chain));
  return pending.trail.length > 0 ? { seq: trailSeq, hash: trailHead } : undefined;
}

/** Makes the row of a chain, with the thing that it belongs to. */
export async function openChain(tx: Queryable, chain: string): Promise<void> {
  await tx.insert(tables.chains).values({ id: chain });
}
