/**
 * Working a dry run through: in small steps between which the server answers others, with its progress in the
 * database, so that any server tells how far it is and any can cancel it. Only what the change can concern is fetched,
 * page by page, with the cards that each page can be decided on: memory stays flat, however many cards there are. One
 * whose server stopped is worked through anew by another: it takes seconds, and what it found stands in memory alone.
 */

import type { dryRunResultSchema, SiteChange } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { DryRun, type DryRunResult } from '@rawbits/core/dryrun';
import { and, asc, count, eq, gt, gte, inArray, lte, or, sql } from 'drizzle-orm';
import type { z } from 'zod';
import type { Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { endJob, type JobRow, LostJob, tell } from '../../platform/jobs/index.ts';
import { sentenceFor } from '../../platform/problem/sentence.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { readTable } from '../reads/index.ts';
import { type Stage, stageOf } from './places.ts';

export const DRY_RUN = 'dry run';

const PAGE = 4000;
const STEP = 500;
const TELL_MS = 200;

const breathe = () => new Promise<void>((resolve) => setImmediate(resolve));

/** Works a run through to its end, whatever that is; throws LostJob where it was cancelled or is carried on elsewhere. */
export const carryDryRun =
  (app: () => App) =>
  async (job: JobRow): Promise<void> => {
    try {
      await workThrough(app(), job);
    } catch (error) {
      if (error instanceof LostJob) throw error;
      app().log.warn({ err: error }, 'a dry run failed');
      await endJob(app().db, job, 'failed', { message: sentenceFor(error) }).catch(() => {});
    }
  };

interface Page {
  id: string;
  name: string;
  bits: string;
}
type Source = (after: Page | undefined, lengths: number[]) => Promise<Page[]>;

async function workThrough(app: App, job: JobRow): Promise<void> {
  const { db } = app;
  const { siteId } = job;
  const stage = await stageOf(db, siteId, job.input as SiteChange);
  const run = new DryRun(stage.places, { atMs: Date.now() });
  const until = new Date();
  const counted = await countByLength(db, siteId, until);
  const total = sumOf(counted.cards) + sumOf(counted.reads);
  let [done, toldAt] = [0, 0];
  const step = async (more: number): Promise<void> => {
    done += more;
    await breathe();
    if (performance.now() - toldAt < TELL_MS) return;
    toldAt = performance.now();
    await tell(db, job, { done, total });
  };
  for (const [kind, source] of [
    ['cards', cardsOf(db, siteId)],
    ['reads', readsOf(db, siteId, until)],
  ] as const) {
    const concerned = setAside(run, kind, counted[kind]);
    await step(sumOf(counted[kind]) - sumOf(concerned));
    if (concerned.size === 0) continue;
    for await (const page of pagesOf(source, [...concerned.keys()])) await workPage(db, stage, run, kind, page, step);
  }
  await endJob(db, job, 'done', { done, total: done, result: await withHolders(db, run.result()) });
}

/** The names of those who hold the cards that are shown; costs those cards. */
async function withHolders(db: Queryable, result: DryRunResult): Promise<z.input<typeof dryRunResultSchema>> {
  const ambiguous = result.ambiguous.examples;
  const taken = ambiguous.flatMap(({ meanings }) => meanings.flatMap(({ card }) => card?.id ?? []));
  const cards = [...result.cardExamples, ...ambiguous.filter(({ kind }) => kind === 'cards')].map(({ id }) => id);
  const ids = [...new Set([...cards, ...taken])];
  if (ids.length === 0) return result;
  const rows = await db
    .select({ id: cardTable.id, holder: cardholderTable.name })
    .from(cardTable)
    .innerJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
    .where(inArray(cardTable.id, ids));
  const holders = new Map(rows.map(({ id, holder }) => [id, holder]));
  const named = <T extends { id: string }>(card: T) => ({ ...card, holder: holders.get(card.id) });
  const examples = ambiguous.map((example) => ({
    ...named(example),
    meanings: example.meanings.map((meaning) => ({ ...meaning, card: meaning.card && named(meaning.card) })),
  }));
  return { ...result, cardExamples: result.cardExamples.map(named), ambiguous: { ...result.ambiguous, examples } };
}

/** Counts what the change cannot concern as the same, and gives the rest. */
function setAside(run: DryRun, kind: 'cards' | 'reads', counts: Counts): Map<number, number> {
  const concerned = new Map<number, number>();
  for (const [length, count] of counts)
    if (length === null) run.unknown(count);
    else if (run.concerns(length)) concerned.set(length, count);
    else run.same(kind, count);
  return concerned;
}

async function workPage(
  db: Queryable,
  stage: Stage,
  run: DryRun,
  kind: 'cards' | 'reads',
  page: readonly Page[],
  step: (more: number) => Promise<void>,
): Promise<void> {
  const reads = page.map(({ id, name, bits }) => ({ id, name, bits: Bits.fromBinary(bits) }));
  const numbers = new Set<string>();
  for (const { bits } of reads) for (const number of run.numbersOf(bits)) numbers.add(number);
  await stage.onFile.take(db, [...numbers]);
  for (let from = 0; from < reads.length; from += STEP) {
    const some = reads.slice(from, from + STEP);
    for (const { id, name, bits } of some)
      if (kind === 'cards') run.card(id, name, bits);
      else run.read(id, bits);
    await step(some.length);
  }
}

/** Page after page; the next is fetched while one is worked through. */
async function* pagesOf(source: Source, lengths: number[]): AsyncGenerator<Page[]> {
  let next = source(undefined, lengths);
  for (;;) {
    const page = await next;
    if (page.length === PAGE) next = source(page.at(-1), lengths);
    // Whoever stops in the middle waits for it no more.
    next.catch(() => {});
    if (page.length > 0) yield page;
    if (page.length < PAGE) return;
  }
}

const cardsOf =
  (db: Queryable, siteId: string): Source =>
  async (after, lengths) => {
    const rows = await db
      .select({ id: cardTable.id, facility: cardTable.facility, number: cardTable.number, bits: cardTable.bits })
      .from(cardTable)
      .where(
        and(
          eq(cardTable.siteId, siteId),
          inArray(sql`char_length(${cardTable.bits})`, lengths),
          after && gt(cardTable.id, after.id),
        ),
      )
      .orderBy(asc(cardTable.id))
      .limit(PAGE);
    return rows.map(({ id, facility, number, bits }) => ({
      id,
      name: `${facility ? `${facility}/` : ''}${number}`,
      bits: bits!,
    }));
  };

const readsOf =
  (db: Queryable, siteId: string, until: Date): Source =>
  async (after, lengths) => {
    const last = after && { id: after.id, at: new Date(after.name) };
    const rows = await db
      .select({ id: readTable.id, at: readTable.at, bits: readTable.bits })
      .from(readTable)
      .where(
        and(
          eq(readTable.siteId, siteId),
          lte(readTable.at, until),
          inArray(readTable.length, lengths),
          // The bare limit on the instant lets the index find the page; the rest keeps reads of one instant apart.
          last &&
            and(
              gte(readTable.at, last.at),
              or(gt(readTable.at, last.at), and(eq(readTable.at, last.at), gt(readTable.id, last.id))),
            ),
        ),
      )
      .orderBy(asc(readTable.at), asc(readTable.id))
      .limit(PAGE);
    return rows.map(({ id, at, bits }) => ({ id, name: at.toISOString(), bits }));
  };

/** How many there are by their count of bits; null where a card's bits are not known. */
type Counts = Map<number | null, number>;
const sumOf = (counts: ReadonlyMap<number | null, number>): number => [...counts.values()].reduce((a, b) => a + b, 0);

async function countByLength(db: Queryable, siteId: string, until: Date): Promise<{ cards: Counts; reads: Counts }> {
  const length = sql<number | null>`char_length(${cardTable.bits})`;
  const cards = await db
    .select({ length, count: count() })
    .from(cardTable)
    .where(eq(cardTable.siteId, siteId))
    .groupBy(length);
  const reads = await db
    .select({ length: readTable.length, count: count() })
    .from(readTable)
    .where(and(eq(readTable.siteId, siteId), lte(readTable.at, until)))
    .groupBy(readTable.length);
  const map = (rows: readonly { length: number | null; count: number }[]): Counts =>
    new Map(rows.map((row) => [row.length, row.count]));
  return { cards: map(cards), reads: map(reads) };
}
