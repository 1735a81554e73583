/**
 * Another code under the same name, with the cards on file under it. Few cards follow in the change itself; many in
 * pieces after it, each a transaction of its own. Until all have, no controller of the site is loaded and no other
 * change of what the site accepts is saved: nobody acts on half of it.
 */
import { and, eq, inArray, lte, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import { inTransaction, isDuplicate, type Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { endJob, insertJob, type JobRow, tell } from '../../platform/jobs/index.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import { change, type Record } from '../../platform/trail/change.ts';
import { boxesMoved, boxTable, cardTable, noteChanges } from '../cards/index.ts';
import { AT_ONCE, noteCards, RECODING } from '../doors/index.ts';
import { namedCode } from './named.ts';
import { facilityCodeTable } from './tables.ts';

const PIECE = 500;
const TELL_EVERY = 10;

interface Move {
  /** Empty where the code is not of one format. */
  formatId: string;
  from: string;
  to: string;
}

/** The cards of a site under a code. */
const under = (siteId: string, formatId: string, code: string) =>
  and(
    eq(cardTable.siteId, siteId),
    eq(cardTable.facility, code),
    formatId === '' ? undefined : eq(cardTable.formatId, formatId),
  );

/** Throws where a card would be the same as another one after the move; costs the cards. */
async function checkApart(tx: Queryable, siteId: string, { formatId, from, to }: Move): Promise<void> {
  const other = alias(cardTable, 'other');
  const [same] = await tx
    .select({ number: cardTable.number })
    .from(cardTable)
    .innerJoin(
      other,
      and(
        eq(other.siteId, cardTable.siteId),
        eq(other.formatId, cardTable.formatId),
        eq(other.facility, to),
        eq(other.number, cardTable.number),
      ),
    )
    .where(under(siteId, formatId, from))
    .limit(1);
  if (same)
    throw conflict(
      'card-on-file',
      `Two cards would be the same after this change: ${to}/${same.number} is on file beside ${from}/${same.number}. Nothing was saved.`,
    );
}

/** Changes the code. Gives the job that moves its cards where they are many, to be begun once this is committed. */
export async function changeCode(
  tx: Queryable,
  record: Record,
  who: string,
  { siteId, id, code }: { siteId: string; id: string; code: string },
  counts: unknown,
): Promise<JobRow[]> {
  const own = and(eq(facilityCodeTable.id, id), eq(facilityCodeTable.siteId, siteId));
  const [row] = await tx.select().from(facilityCodeTable).where(own).for('update');
  if (!row) throw notFound('facility code');
  const taken = await namedCode(tx, siteId, row.formatId, code);
  if (taken && taken.id !== id) throw conflict('code-taken', `Facility code ${code} is ${taken.name} already.`);
  const move: Move = { formatId: row.formatId, from: row.code, to: code };
  await tx
    .update(facilityCodeTable)
    .set({ code, revision: row.revision + 1 })
    .where(own);
  await checkApart(tx, siteId, move);
  const boxes = [eq(boxTable.siteId, siteId), eq(boxTable.facility, move.from)];
  await boxesMoved(tx, and(...boxes, move.formatId === '' ? undefined : eq(boxTable.formatId, move.formatId)), code);
  const cards = await tx.$count(cardTable, under(siteId, row.formatId, row.code));
  record.trail({
    action: 'facility code changed',
    subject: `facility code ${row.name}`,
    before: { code: row.code },
    after: { code, cardsChanged: cards, dryRun: counts },
  });
  record.announce('formats');
  record.announce('cards');
  if (cards <= AT_ONCE) {
    await movePiece(tx, siteId, move, cards);
    return [];
  }
  record.announce('work');
  const job = { siteId, kind: RECODING, subject: id, slot: `${RECODING} ${siteId}`, total: cards, startedBy: who };
  return [await insertJob(tx, { ...job, input: move })];
}

/** Moves up to `most` cards that were on file by `until`; how many those were. */
async function movePiece(tx: Queryable, siteId: string, move: Move, most: number, until = new Date()): Promise<number> {
  const rows = await tx
    .select({ id: cardTable.id })
    .from(cardTable)
    .where(and(under(siteId, move.formatId, move.from), lte(cardTable.createdAt, until)))
    .limit(most)
    .for('update');
  if (rows.length === 0) return 0;
  const these = inArray(
    cardTable.id,
    rows.map(({ id }) => id),
  );
  await tx
    .update(cardTable)
    .set({ facility: move.to, revision: sql`${cardTable.revision} + 1` })
    .where(these);
  await noteChanges(tx, siteId, rows.length);
  await noteCards(tx, siteId, these);
  return rows.length;
}

/** Carries a move to its end, from wherever it is; throws LostJob where it is carried on elsewhere. */
export const carryRecoding =
  (app: () => App) =>
  async (job: JobRow): Promise<void> => {
    try {
      for (let piece = 1; ; piece++) {
        const moved = await nextPiece(app(), job);
        if (moved === 0 || piece % TELL_EVERY === 0) await announce(app(), job);
        if (moved === 0) return;
      }
    } catch (error) {
      if (!isDuplicate(error)) throw error;
      // Somebody came between: the move ends where it is, so that nothing waits for it for good.
      const message = 'A card was put on file meanwhile where another was to be moved; the rest has its former code.';
      await endJob(app().db, job, 'failed', { message });
      app().log.error({ job: job.id }, message);
      await announce(app(), job);
    }
  };

/** Moves the next cards; how many those were. */
const nextPiece = (app: App, job: JobRow): Promise<number> => {
  const { done } = job;
  return inTransaction(app.db, async (tx) => {
    // The row of the job is written first: of two carriers one goes on.
    await tell(tx, job, { done });
    const cards = await movePiece(tx, job.siteId, job.input as Move, PIECE, job.startedAt);
    if (cards === 0) await endJob(tx, job, 'done', { done });
    else await tell(tx, job, { done: done + cards });
    return cards;
  });
};

const announce = (app: App, job: JobRow): Promise<void> =>
  change(app, { id: 'server', name: 'Raw Bits' }, job.siteId, async (_tx, record) => {
    record.announce('cards');
    record.announce('work');
  });
