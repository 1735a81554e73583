/**
 * Entering a box and taking it back: one transaction, so that a server which ends in the middle leaves nothing of it; how
 * far it is goes beside it, over another connection. One that lost its server is begun anew by another.
 */
import { BOX_STATES, newBoxSchema } from '@rawbits/api';
import { type BoxCard, cardsOf, checkLabel } from '@rawbits/core/box';
import { RawBitsError } from '@rawbits/core/failure';
import type { Format } from '@rawbits/core/format';
import { and, eq, inArray, isNotNull, ne, notInArray, or, sql } from 'drizzle-orm';
import { z } from 'zod';
import { isDuplicate, newId, type Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { endJob, type JobRow, LostJob, tell } from '../../platform/jobs/index.ts';
import { conflict, HttpProblem } from '../../platform/problem/problem.ts';
import { sentenceFor } from '../../platform/problem/sentence.ts';
import { change, type Record } from '../../platform/trail/change.ts';
import { boxCountTable, boxTable, cardTable, countCards } from '../cards/index.ts';
import { checkMoved, giveUpCards, noteCards } from '../doors/index.ts';
import { adoptedFormats } from '../library/index.ts';
import { encodedTable } from '../plans/index.ts';
import { runCardTable } from '../runs/index.ts';
import { type BoxRow, findBox, ownBox, rowFrom } from './describe.ts';
import { namedBy, seenOf } from './review.ts';

/** The kind of its job. */
export const BOX = 'box';
/** Rows an insert, and rows a delete. */
const PIECE = 1000;
const TELL_MS = 250;

const whoSchema = z.object({ id: z.string(), name: z.string() });
export const workInputSchema = z.discriminatedUnion('does', [
  z.object({
    does: z.literal('enter'),
    who: whoSchema,
    box: newBoxSchema,
    id: z.string(),
    seen: z.string(),
    leaveOut: z.boolean(),
  }),
  z.object({ does: z.literal('take back'), who: whoSchema, id: z.string(), name: z.string() }),
]);
export type WorkInput = z.output<typeof workInputSchema>;

/** Carries it to its end, whatever that is. */
export const carryBox =
  (app: () => App) =>
  async (job: JobRow): Promise<void> => {
    const input = workInputSchema.parse(job.input);
    let toldAt = 0;
    const step = async (done: number): Promise<void> => {
      await new Promise((resolve) => setImmediate(resolve));
      if (performance.now() - toldAt < TELL_MS) return;
      toldAt = performance.now();
      // Throws where it was cancelled or another server carries it on: the transaction then ends with nothing kept.
      await tell(app().db, job, { done });
    };
    try {
      await change(app(), input.who, job.siteId, async (tx, record) => {
        if (input.does === 'enter') await enter(tx, record, job.siteId, input, step);
        else await takeOut(tx, record, job.siteId, input, step);
        await tell(tx, job, { done: job.total });
        await endJob(tx, job, 'done');
        record.announce('work');
      });
    } catch (error) {
      if (error instanceof LostJob) throw error;
      if (!(error instanceof HttpProblem)) app().log.warn({ err: error }, 'a box was not entered or taken back');
      await change(app(), input.who, job.siteId, async (tx, record) => {
        if (await endJob(tx, job, 'failed', { message: wordsFor(error) })) record.announce('work');
      });
    }
  };

function wordsFor(error: unknown): string {
  if (isDuplicate(error)) return 'Somebody put one of these cards on file meanwhile: review the box again.';
  return [sentenceFor(error), error instanceof RawBitsError && error.hint].filter(Boolean).join(' ');
}

type Step = (done: number) => Promise<void>;

async function enter(
  tx: Queryable,
  record: Record,
  site: string,
  { id, box, who, seen, leaveOut }: Extract<WorkInput, { does: 'enter' }>,
  step: Step,
): Promise<void> {
  await checkMoved(tx, site);
  const format = await formatOf(tx, site, box.formatId);
  checkLabel(format, box);
  const row = rowFrom(format, box);
  if ((await seenOf(tx, site, row)) !== seen)
    throw conflict(
      'changed-meanwhile',
      'Cards or boxes of these numbers changed since the review.',
      'Review it again.',
    );
  const there = new Set(
    (await tx.select({ number: cardTable.number }).from(cardTable).where(namedBy(site, row))).map((c) => c.number),
  );
  if (there.size > 0 && !leaveOut)
    throw conflict('card-on-file', `${there.size} of these cards are on file already.`, 'Review it again.');
  const at = new Date();
  await tx.insert(boxTable).values({ ...row, id, siteId: site, enteredBy: who.name, enteredAt: at });
  let entered = 0;
  const named = namer();
  let kept = Promise.resolve();
  for (let from = 0; from < row.count; from += PIECE) {
    const cards = cardsOf(format, box, from, PIECE).filter(({ number }) => !there.has(number));
    await kept;
    // The next thousand are worked out while these are kept.
    kept = cards.length > 0 ? insertCards(tx, site, id, box, row, cards.map(named), at) : Promise.resolve();
    kept.catch(() => {});
    entered += cards.length;
    await step(from);
  }
  await kept;
  if (entered > 0) await countCards(tx, { siteId: site, formatId: row.formatId, state: box.state, boxId: id }, entered);
  if (box.state !== 'in stock') await noteCards(tx, site, eq(cardTable.boxId, id));
  const { firstKey, lastKey, ...noted } = row;
  record.trail({ action: 'box entered', subject: subjectOf(row), after: { id, ...noted, state: box.state, entered } });
  record.announce('cards');
}

interface Named extends BoxCard {
  id: string;
}

/**
 * Identifiers for the cards of a box: one that is random for all, then a count down, so that of cards of one moment the
 * lowest number is the newest, as lists show them, and the rows stand beside one another.
 */
function namer(): (card: BoxCard) => Named {
  const random = newId();
  let left = 36 ** 4;
  return (card) => ({ ...card, id: `${random}${(--left).toString(36).padStart(4, '0')}` });
}

/**
 * What differs between the rows goes over as one text, which the database takes apart: to put each value into a statement
 * takes longer than to keep it.
 */
async function insertCards(
  tx: Queryable,
  site: string,
  boxId: string,
  { state }: { state: string },
  { formatId, facility }: { formatId: string; facility: string },
  cards: readonly Named[],
  createdAt: Date,
): Promise<void> {
  const text = JSON.stringify(cards.map(({ id, number, printed, bits }) => [id, number, printed, bits]));
  await tx.execute(sql`
    insert into ${cardTable} (id, site_id, format_id, facility, number, printed, bits, state, box_id, notes, created_at)
    select card.id, ${site}, ${formatId}, ${facility}, card.number, card.printed, card.bits, ${state}, ${boxId}, '',
      ${sql.param(createdAt, cardTable.createdAt)}
    from json_table(${text}, '$[*]' columns (
      id varchar(40) path '$[0]',
      number varchar(160) path '$[1]',
      printed varchar(80) path '$[2]',
      bits varchar(512) path '$[3]'
    )) as card`);
}

export const subjectOf = ({ name }: { name: string }): string => `box ${name}`;

async function formatOf(db: Queryable, site: string, id: string): Promise<Format> {
  const found = (await adoptedFormats(db, site)).find(({ format }) => format.id === id);
  if (!found)
    throw conflict('format-dropped', `The site does not use the format ${id} any more.`, 'Take it up under Formats.');
  return found.format;
}

/** Throws where a card of the box was issued, changed hands or is on a chip: it is more than a card in a box then. */
export async function checkUntouched(tx: Queryable, box: BoxRow): Promise<void> {
  const own = eq(cardTable.boxId, box.id);
  const touched = await tx.$count(
    cardTable,
    and(own, or(isNotNull(cardTable.holderId), notInArray(cardTable.state, [...BOX_STATES]))),
  );
  if (touched > 0)
    throw conflict(
      'box-issued',
      `${touched} ${touched === 1 ? 'card of this box was' : 'cards of this box were'} issued: the box stays.`,
      'Put them back in stock, or withdraw single cards instead.',
    );
  const [encoded] = await tx
    .select({ number: cardTable.number })
    .from(encodedTable)
    .innerJoin(cardTable, eq(cardTable.id, encodedTable.cardId))
    .where(and(own, inArray(encodedTable.state, ['begun', 'whole'])))
    .limit(1);
  const [held] = await tx
    .select({ number: cardTable.number })
    .from(runCardTable)
    .innerJoin(cardTable, eq(cardTable.id, runCardTable.holds))
    .where(own)
    .limit(1);
  const met = encoded ?? held;
  if (met)
    throw conflict(
      'card-encoded',
      `Card ${met.number} of this box ${encoded ? 'was written onto a chip' : 'is to be encoded in a run'}.`,
      'Take that back first.',
    );
}

async function takeOut(
  tx: Queryable,
  record: Record,
  site: string,
  { id }: Extract<WorkInput, { does: 'take back' }>,
  step: Step,
): Promise<void> {
  await checkMoved(tx, site);
  const box = await findBox(tx, site, id);
  // Written first: whoever changes a card of it from now on waits, and finds it gone.
  await tx
    .update(boxTable)
    .set({ revision: box.revision + 1 })
    .where(ownBox(site, id));
  await checkUntouched(tx, box);
  const own = eq(cardTable.boxId, id);
  await giveUpCards(tx, site, and(own, ne(cardTable.state, 'in stock'))!);
  let done = 0;
  let isIssued = false;
  const states = new Map<string, number>();
  for (let more = true; more; ) {
    const rows = await tx
      .select({ id: cardTable.id, state: cardTable.state, holderId: cardTable.holderId })
      .from(cardTable)
      .where(own)
      .limit(PIECE)
      .for('update');
    more = rows.length === PIECE;
    for (const { state, holderId } of rows) {
      states.set(state, (states.get(state) ?? 0) + 1);
      isIssued ||= holderId !== null || !(BOX_STATES as readonly string[]).includes(state);
    }
    if (rows.length > 0)
      await tx.delete(cardTable).where(
        inArray(
          cardTable.id,
          rows.map((row) => row.id),
        ),
      );
    done += rows.length;
    await step(done);
  }
  // A card that was issued between the look and the lock is among those that were deleted: then nothing is.
  if (isIssued) throw conflict('box-issued', 'A card of this box was issued meanwhile: the box stays.');
  for (const [state, cards] of states) await countCards(tx, { siteId: site, formatId: box.formatId, state }, -cards);
  await tx.delete(boxCountTable).where(eq(boxCountTable.boxId, id));
  await tx.delete(boxTable).where(ownBox(site, id));
  const { firstKey, lastKey, siteId, ...before } = box;
  record.trail({ action: 'box taken back', subject: subjectOf(box), before: { ...before, cards: done } });
  record.announce('cards');
}
