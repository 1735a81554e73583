/**
 * Sealing: entries that were committed get their number and their hash in the chain, announcements their number in the
 * feed, in batches, a moment after their commit. Any server may seal what any has committed; the chain's row, which
 * each batch writes, keeps two of them apart, on every node of a cluster.
 *
 * Until it is sealed an entry is keyed but not chained. Who has the database in hand in that moment cannot change it or
 * make one up (its keyed hash would be wrong), nor put in a copy (its name would be there twice); taken out whole, it is
 * gone, and looks like a commit that failed.
 */
import { and, asc, desc, eq, exists, isNull, max, or, sql } from 'drizzle-orm';
import { inTransaction, type Queryable } from '../database/index.ts';
import { feedTable } from '../feed/tables.ts';
import { noteHead } from './anchor.ts';
import type { KeepingApp } from './app.ts';
import type { Anchor } from './keeper.ts';
import { chainTable, HOUSE, trailTable } from './tables.ts';

/** Entries a batch; as many again of the feed. */
const AT_ONCE = 500;
/** What is committed within this time is sealed together: at once where it is quiet, with more where many write. */
const GATHER_MS = { quiet: 10, busy: 150 };
/** How long after a batch a chain counts as busy. */
const BUSY_MS = 400;
/** How often it is looked for what a server that stopped has left open. */
const LOOK_MS = 500;
/** How often it is looked for chains whose row is gone. */
const LOST_MS = 2000;
/** Sealing that has failed for so long is told. */
const LATE_MS = 3000;

interface Turn {
  running: Promise<void>;
  /** More was committed since it last looked. */
  again: boolean;
  /** Ends its waiting for more. */
  hurry?: () => void;
}

export class Sealer {
  private readonly turns = new Map<string, Turn>();
  /** When a batch of each chain was sealed last, in milliseconds of this process. */
  private readonly last = new Map<string, number>();
  /** Since when sealing has failed, by chain. */
  private readonly failing = new Map<string, { since: Date; at: number }>();
  private lookedForLostAt = -LOST_MS;
  private readonly timer: NodeJS.Timeout;
  private looking = Promise.resolve();
  private closed = false;

  /** `sealed` is told of each batch. */
  constructor(
    private readonly app: () => KeepingApp,
    private readonly sealed: () => void,
  ) {
    this.timer = setInterval(() => (this.looking = this.look()), LOOK_MS);
    this.timer.unref();
  }

  /** Told that something was committed on a chain: it is sealed within a moment. */
  soon(chain: string): void {
    if (!this.closed) void this.turn(chain, true);
  }

  /** Seals what has been committed up to now. */
  async now(chain: string): Promise<void> {
    await this.turn(chain, false);
  }

  private turn(chain: string, gather: boolean): Promise<void> {
    const there = this.turns.get(chain);
    if (there) {
      there.again = true;
      if (!gather) there.hurry?.();
      return there.running;
    }
    const turn: Turn = { running: Promise.resolve(), again: false };
    this.turns.set(chain, turn);
    turn.running = this.run(chain, turn, gather);
    return turn.running;
  }

  private async run(chain: string, turn: Turn, gather: boolean): Promise<void> {
    try {
      do {
        if (gather) await this.gather(chain, turn);
        turn.again = false;
        while (await sealSome(this.app(), chain)) {
          this.last.set(chain, performance.now());
          this.sealed();
        }
      } while (turn.again);
      this.failing.delete(chain);
    } catch (error) {
      // The next look, or the next commit, tries it again.
      this.fails(chain);
      this.app().log.debug({ err: error, chain }, 'the trail could not be sealed yet');
    } finally {
      this.turns.delete(chain);
    }
  }

  private fails(chain: string): void {
    if (!this.failing.has(chain)) this.failing.set(chain, { since: new Date(), at: performance.now() });
  }

  /** Since when entries of a chain, or of any, have not been sealed; undefined while they are, but for a moment. */
  failsSince(chain?: string): Date | undefined {
    const late = [...this.failing]
      .filter(([name, { at }]) => (chain === undefined || name === chain) && performance.now() - at > LATE_MS)
      .map(([, { since }]) => since.getTime());
    return late.length > 0 ? new Date(Math.min(...late)) : undefined;
  }

  /** Chains whose row is gone: nothing of them is sealed, and nothing else would tell. */
  private async lookForLost(db: Queryable): Promise<void> {
    if (performance.now() - this.lookedForLostAt < LOST_MS) return;
    this.lookedForLostAt = performance.now();
    const lost = new Set(await lostChains(db));
    for (const chain of lost) this.fails(chain);
    for (const chain of this.failing.keys())
      if (!lost.has(chain) && !this.turns.has(chain) && !(await isOpen(db, chain))) this.failing.delete(chain);
  }

  /** Waits for more to come, unless somebody waits for what is there. */
  private gather(chain: string, turn: Turn): Promise<void> {
    const isBusy = performance.now() - (this.last.get(chain) ?? -BUSY_MS) < BUSY_MS;
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, isBusy ? GATHER_MS.busy : GATHER_MS.quiet);
      turn.hurry = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  }

  private async look(): Promise<void> {
    try {
      const { db } = this.app();
      await this.lookForLost(db);
      for (const { id } of await openChains(db)) void this.turn(id, false);
    } catch {
      // The database is away for a moment.
    }
  }

  /** Seals what is under way, and looks no more. */
  async close(): Promise<void> {
    this.closed = true;
    clearInterval(this.timer);
    await this.looking;
    await Promise.all([...this.turns.values()].map(({ running }) => running));
  }
}

/** The chains with something that is not sealed; costs the chains, not what is on them. */
const openChains = (db: Queryable): Promise<{ id: string }[]> => {
  const one = sql`1`;
  const entry = db
    .select({ one })
    .from(trailTable)
    .where(and(eq(trailTable.chain, chainTable.id), isNull(trailTable.seq)));
  const news = db
    .select({ one })
    .from(feedTable)
    .where(and(eq(feedTable.siteId, chainTable.id), isNull(feedTable.seq)));
  return db
    .select({ id: chainTable.id })
    .from(chainTable)
    .where(or(exists(entry), exists(news)));
};

/** Whether something of a chain that is there is not sealed. */
const isOpen = async (db: Queryable, chain: string): Promise<boolean> =>
  (await openChains(db)).some(({ id }) => id === chain);

/** The chains that should be there and are not: each site has one, and the house. */
async function lostChains(db: Queryable): Promise<string[]> {
  const [rows] = (await db.execute(sql`
    SELECT s.id FROM (SELECT id FROM sites UNION SELECT ${HOUSE}) s
    LEFT JOIN ${chainTable} ON chains.id = s.id WHERE chains.id IS NULL`)) as unknown as [{ id: string }[]];
  return rows.map(({ id }) => id);
}

/**
 * Sets a chain's row to the last entry that is sealed, and to the last number of its feed, where it is gone or was changed: what
 * is written from then on follows that. Only for an administrator who answers for the break.
 */
export async function mendHead(tx: Queryable, chain: string): Promise<void> {
  // The row first: until it is given back nobody seals.
  const [row] = await tx.select().from(chainTable).where(eq(chainTable.id, chain)).for('update');
  const [last] = await tx
    .select({ seq: trailTable.seq, hash: trailTable.hash })
    .from(trailTable)
    .where(eq(trailTable.chain, chain))
    .orderBy(desc(trailTable.seq))
    .limit(1);
  const [news] = await tx
    .select({ seq: max(feedTable.seq) })
    .from(feedTable)
    .where(eq(feedTable.siteId, chain));
  const head = { trailSeq: last?.seq ?? 0, trailHead: last?.hash ?? '' };
  const feedSeq = Math.max(Number(news?.seq ?? 0), row?.feedSeq ?? 0);
  if (!row) await tx.insert(chainTable).values({ id: chain, ...head, feedSeq });
  // A head past the last entry says that others were cut off: it stays, and the settlement goes on after it.
  else if (row.trailSeq < head.trailSeq || (row.trailSeq === head.trailSeq && row.trailHead !== head.trailHead))
    await tx
      .update(chainTable)
      .set({ ...head, feedSeq })
      .where(eq(chainTable.id, chain));
}

/** Seals one batch; whether there was anything. */
async function sealSome(app: KeepingApp, chain: string): Promise<boolean> {
  const done = await inTransaction(app.db, async (tx) => {
    const [row] = await tx.select().from(chainTable).where(eq(chainTable.id, chain)).for('update');
    if (!row) throw new Error('the chain has no row');
    const from = { seq: row.trailSeq, hash: row.trailHead };
    const to = await sealEntries(app, tx, chain, from);
    const feedSeq = await numberFeed(tx, chain, row.feedSeq);
    if (to === from && feedSeq === row.feedSeq) return undefined;
    await tx.update(chainTable).set({ trailSeq: to.seq, trailHead: to.hash, feedSeq }).where(eq(chainTable.id, chain));
    return { from, to };
  });
  if (done && done.to !== done.from) await noteHead(app, chain, done.from, done.to);
  return done !== undefined;
}

async function sealEntries(
  { trail }: Pick<KeepingApp, 'trail'>,
  tx: Queryable,
  chain: string,
  from: Anchor,
): Promise<Anchor> {
  const open = await tx
    .select()
    .from(trailTable)
    .where(and(eq(trailTable.chain, chain), isNull(trailTable.seq)))
    .orderBy(asc(trailTable.name))
    .limit(AT_ONCE);
  if (open.length === 0) return from;
  let to = from;
  const places = open.map((entry): Place => {
    const placed = { ...entry, seq: to.seq + 1, previous: to.hash };
    to = { seq: placed.seq, hash: trail.hashOf(placed) };
    return { name: entry.name, seq: placed.seq, previous: placed.previous, hash: to.hash };
  });
  if (new Set(places.map(({ name }) => name)).size === places.length) await placeAll(tx, chain, places);
  else for (const place of places) await placeOne(tx, chain, place);
  return to;
}

interface Place {
  name: string;
  seq: number;
  previous: string;
  hash: string;
}

const placeAll = (tx: Queryable, chain: string, places: readonly Place[]) =>
  tx.execute(sql`
    UPDATE ${trailTable} t
    JOIN JSON_TABLE(${JSON.stringify(places)}, '$[*]' COLUMNS (
      name VARCHAR(40) PATH '$.name', seq BIGINT PATH '$.seq',
      previous VARCHAR(64) PATH '$.previous', hash VARCHAR(64) PATH '$.hash')) p ON p.name = t.name
    SET t.seq = p.seq, t.previous = p.previous, t.hash = p.hash
    WHERE t.chain = ${chain} AND t.seq IS NULL`);

/** Where somebody took the table's key away and put in an entry twice: it is sealed as it is, and verification tells. */
const placeOne = (tx: Queryable, chain: string, { name, seq, previous, hash }: Place) =>
  tx.execute(sql`
    UPDATE ${trailTable} SET seq = ${seq}, previous = ${previous}, hash = ${hash}
    WHERE chain = ${chain} AND name = ${name} AND seq IS NULL LIMIT 1`);

async function numberFeed(tx: Queryable, siteId: string, from: number): Promise<number> {
  const open = await tx
    .select({ name: feedTable.name })
    .from(feedTable)
    .where(and(eq(feedTable.siteId, siteId), isNull(feedTable.seq)))
    .orderBy(asc(feedTable.name))
    .limit(AT_ONCE);
  if (open.length === 0) return from;
  const places = open.map(({ name }, i) => ({ name, seq: from + i + 1 }));
  await tx.execute(sql`
    UPDATE ${feedTable} f
    JOIN JSON_TABLE(${JSON.stringify(places)}, '$[*]' COLUMNS (
      name VARCHAR(40) PATH '$.name', seq BIGINT PATH '$.seq')) p ON p.name = f.name
    SET f.seq = p.seq
    WHERE f.site_id = ${siteId} AND f.seq IS NULL`);
  return from + open.length;
}
