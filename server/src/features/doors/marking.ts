/**
 * Marking: which cards of a format a controller should have, worked out after what it accepts has changed. Few are marked
 * in the change itself; many in pieces after it, each piece a transaction of its own, so that nobody waits for a million
 * rows. A piece asks what the controller accepts now, so it does not matter how often that changed meanwhile. Until it is
 * done the controller is not loaded, and its format itself waits.
 */
import { and, asc, eq, gt, inArray, or } from 'drizzle-orm';
import { inTransaction, type Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { endJob, insertJob, type JobRow, jobTable, tell } from '../../platform/jobs/index.ts';
import { change } from '../../platform/trail/change.ts';
import { cardsForDoors, cardTable } from '../cards/index.ts';
import { MARKING, markCards } from './items.ts';
import { controllerFormatTable } from './tables.ts';

/** So many cards are marked at once. */
export const AT_ONCE = 2000;
const PIECE = 500;
const TELL_EVERY = 10;

interface Input {
  formatId: string;
}
/** The last card that was marked, in the order of facility code and number. */
interface Memo {
  facility: string;
  number: string;
}

/**
 * Marks the cards of a format at a controller that has begun or ceased to accept it. Gives the job that does so where
 * they are many: it is to be begun once the change has been committed.
 */
export async function mark(
  tx: Queryable,
  startedBy: string,
  { siteId, controllerId, formatId }: { siteId: string; controllerId: string; formatId: string },
): Promise<JobRow[]> {
  const slot = `${MARKING} ${controllerId} ${formatId}`.slice(0, 80);
  const before = await tx.select().from(jobTable).where(eq(jobTable.slot, slot)).for('update');
  for (const job of before) await endJob(tx, job, 'cancelled', { message: 'Another change came after it.' });
  const cards = (await cardsForDoors(tx, siteId, [formatId])).get(formatId) ?? 0;
  if (cards <= AT_ONCE) {
    await markPiece(tx, siteId, controllerId, formatId, eq(cardTable.formatId, formatId)!);
    return [];
  }
  const job = { siteId, kind: MARKING, subject: controllerId, slot, total: cards, startedBy };
  return [await insertJob(tx, { ...job, input: { formatId } satisfies Input, memo: { facility: '', number: '' } })];
}

async function markPiece(
  tx: Queryable,
  siteId: string,
  controllerId: string,
  formatId: string,
  which: Parameters<typeof markCards>[3],
): Promise<void> {
  const own = and(eq(controllerFormatTable.controllerId, controllerId), eq(controllerFormatTable.formatId, formatId));
  // Read with a lock: whoever changes what it accepts waits for this piece, or this piece for them.
  const accepted = (await tx.select().from(controllerFormatTable).where(own).for('update')).length > 0;
  await markCards(tx, siteId, controllerId, which, accepted);
}

/** Carries a marking to its end, from wherever it is; throws LostJob where it is carried on elsewhere or not needed any more. */
export const carryMarking =
  (app: () => App) =>
  async (job: JobRow): Promise<void> => {
    const { db } = app();
    const { formatId } = job.input as Input;
    for (let piece = 1; ; piece++) {
      // A piece that is tried again begins where the last one ended.
      const from = { ...(job.memo as Memo), done: job.done };
      const ended = await inTransaction(db, (tx) => nextPiece(tx, job, formatId, from));
      if (ended || piece % TELL_EVERY === 0) await announce(app(), job);
      if (ended) return;
    }
  };

async function nextPiece(
  tx: Queryable,
  job: JobRow,
  formatId: string,
  { facility, number, done: before }: Memo & { done: number },
): Promise<boolean> {
  const { siteId, subject: controllerId } = job;
  const page = await tx
    .select({ id: cardTable.id, facility: cardTable.facility, number: cardTable.number })
    .from(cardTable)
    .where(
      and(
        eq(cardTable.siteId, siteId),
        eq(cardTable.formatId, formatId),
        or(gt(cardTable.facility, facility), and(eq(cardTable.facility, facility), gt(cardTable.number, number))),
      ),
    )
    .orderBy(asc(cardTable.facility), asc(cardTable.number))
    .limit(PIECE);
  const last = page.at(-1);
  if (!last) {
    await endJob(tx, job, 'done', { done: before });
    return true;
  }
  const done = before + page.length;
  // The row of the job is written first: a marking that came after this one has ended it.
  await tell(tx, job, {
    done,
    total: Math.max(done, job.total),
    memo: { facility: last.facility, number: last.number } satisfies Memo,
  });
  const ids = page.map(({ id }) => id);
  await markPiece(tx, siteId, controllerId, formatId, inArray(cardTable.id, ids));
  return false;
}

const announce = (app: App, job: JobRow): Promise<void> =>
  change(app, { id: 'server', name: 'Raw Bits' }, job.siteId, async (_tx, record) => {
    record.announce('controllers', { ids: [job.subject] });
    record.announce('work');
  });
