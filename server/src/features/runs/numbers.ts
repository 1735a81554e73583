/** Which cards an encoding run is for: each has a number that no other run has, until it is on a card or given up. */
import type { ChipPlan, newRunSchema } from '@rawbits/api';
import { encode } from '@rawbits/core/codec';
import { RawBitsError } from '@rawbits/core/failure';
import { labelOf } from '@rawbits/core/format';
import { bytesOfFields, contentsOf, filledBy } from '@rawbits/core/plan';
import { and, asc, eq, inArray, notExists, sql } from 'drizzle-orm';
import type { z } from 'zod';
import { newId, type Queryable } from '../../platform/database/index.ts';
import { conflict, HttpProblem, invalid } from '../../platform/problem/problem.ts';
import { bitsOf, cardTable, countCards } from '../cards/index.ts';
import { checkMoved, noteCards } from '../doors/index.ts';
import { adoptedFormats } from '../library/index.ts';
import { encodedTable } from '../plans/index.ts';
import { checkForEncoding, checkNoBox, firstOf, HOW_KEPT, isForEncoding, keptRanges } from './forEncoding.ts';
import { type CardKnown, knownOf } from './known.ts';
import { runCardTable } from './tables.ts';

type Wanted = NonNullable<z.output<typeof newRunSchema>['cards']>;

/** Neither on a chip already nor in another run. */
const isFree = (db: Queryable) =>
  and(
    notExists(db.select({ one: sql`1` }).from(runCardTable).where(eq(runCardTable.holds, cardTable.id))),
    notExists(
      db
        .select({ one: sql`1` })
        .from(encodedTable)
        .where(and(eq(encodedTable.cardId, cardTable.id), inArray(encodedTable.state, ['begun', 'whole']))),
    ),
  );

/**
 * The cards in the order in which they are encoded. Throws where there are too few, or one is not free. Until the transaction
 * ends nobody takes one of them back or gives it another number.
 */
export async function cardsFor(tx: Queryable, site: string, wanted: Wanted): Promise<string[]> {
  const ids = await chosen(tx, site, wanted);
  await checkForEncoding(tx, site, ids);
  const kept = await tx
    .select({ id: cardTable.id })
    .from(cardTable)
    .where(and(eq(cardTable.siteId, site), inArray(cardTable.id, ids)))
    .for('update');
  if (kept.length < ids.length)
    throw conflict('card-taken-back', 'One of these cards has just been taken back.', 'Choose the cards again.');
  return ids;
}

async function chosen(tx: Queryable, site: string, wanted: Wanted): Promise<string[]> {
  if (wanted.from === 'list') return listed(tx, site, wanted.cards);
  if (wanted.from === 'next numbers') return nextNumbers(tx, site, wanted);
  const { formatId, facility, count } = wanted;
  const rows = await tx
    .select({ id: cardTable.id })
    .from(cardTable)
    .where(
      and(
        eq(cardTable.siteId, site),
        eq(cardTable.formatId, formatId),
        facility === null ? undefined : eq(cardTable.facility, facility),
        eq(cardTable.state, 'in stock'),
        isFree(tx),
        isForEncoding(tx, await keptRanges(tx, site)),
      ),
    )
    .orderBy(asc(cardTable.facility), asc(cardTable.numberKey))
    .limit(count);
  if (rows.length < count)
    throw invalid(
      'cards.count',
      `${rows.length} ${rows.length === 1 ? 'card is' : 'cards are'} in stock whose ${rows.length === 1 ? 'number is' : 'numbers are'} to be encoded and on no chip yet, and ${count} are wanted.`,
      `Ask for fewer, or take the next free numbers. ${HOW_KEPT}`,
    );
  return rows.map(({ id }) => id);
}

async function listed(tx: Queryable, site: string, ids: readonly string[]): Promise<string[]> {
  if (new Set(ids).size !== ids.length) throw invalid('cards.cards', 'One card stands there twice.');
  const own = and(eq(cardTable.siteId, site), inArray(cardTable.id, [...ids]));
  const there = await tx.select({ id: cardTable.id }).from(cardTable).where(own);
  if (there.length < ids.length) throw invalid('cards.cards', 'Not all of these are cards of this site.');
  const free = new Set(
    (
      await tx
        .select({ id: cardTable.id })
        .from(cardTable)
        .where(and(own, isFree(tx)))
    ).map(({ id }) => id),
  );
  const taken = ids.find((id) => !free.has(id));
  if (taken !== undefined) {
    const known = (await knownOf(tx, site, [taken])).get(taken)!;
    throw conflict(
      'card-taken',
      `Card ${known.called} is on a chip already, or in another run.`,
      'Take it out of the list, or take the chip back first.',
      'cards.cards',
    );
  }
  return [...ids];
}

/** Puts cards on file with the next numbers of a range kept for encoding, or from one on; none of them may be there. */
async function nextNumbers(
  tx: Queryable,
  site: string,
  { formatId, facility, first, count }: Extract<Wanted, { from: 'next numbers' }>,
): Promise<string[]> {
  await checkMoved(tx, site);
  const format = (await adoptedFormats(tx, site)).find((one) => one.format.id === formatId)?.format;
  if (!format)
    throw invalid('cards.formatId', 'The site has not adopted this format.', 'Adopt it under Formats first.');
  const carries = format.spans.some((span) => labelOf(span) === 'facility');
  if (carries && facility === null) throw invalid('cards.facility', 'This format carries a facility code: say which.');
  const code = carries ? BigInt(facility!).toString() : (format.facility ?? '');
  const of = and(eq(cardTable.siteId, site), eq(cardTable.formatId, formatId), eq(cardTable.facility, code));
  const ranges = (await keptRanges(tx, site)).filter(
    (range) => range.code === code && (range.formatId === '' || range.formatId === formatId),
  );
  const from = await firstOf(tx, { of, ranges, first: first === null ? undefined : BigInt(first), count, code });
  await checkNoBox(tx, site, { formatId, code, from, to: from + BigInt(count) - 1n });
  const numbers = Array.from({ length: count }, (_, i) => String(from + BigInt(i)));
  const [there] = await tx
    .select({ number: cardTable.number })
    .from(cardTable)
    .where(and(of, inArray(cardTable.number, numbers)))
    .limit(1);
  if (there)
    throw conflict('card-on-file', `Card ${there.number} is on file already.`, 'Begin after it.', 'cards.first');
  const rows = numbers.map((number) => {
    const card = { facility: code, number };
    try {
      encode(format, { number, ...(carries && { facility: code }) });
    } catch (error) {
      if (!(error instanceof RawBitsError)) throw error;
      throw new HttpProblem(422, { ...error.toFailure(), where: { field: 'cards.count' } });
    }
    return {
      id: newId(),
      siteId: site,
      formatId,
      ...card,
      printed: '',
      bits: bitsOf(format, card),
      state: 'in stock',
      notes: '',
      createdAt: new Date(),
    };
  });
  for (let at = 0; at < rows.length; at += 500) await tx.insert(cardTable).values(rows.slice(at, at + 500));
  await countCards(tx, { siteId: site, formatId, state: 'in stock' }, rows.length);
  const ids = rows.map(({ id }) => id);
  await noteCards(tx, site, inArray(cardTable.id, ids));
  return ids;
}

/** Throws where the fields of a plan take something that is not known of one of the cards. */
export function checkKnown(plan: ChipPlan, cards: readonly CardKnown[]): void {
  for (const { called, ...card } of cards)
    try {
      const known = { ...card, values: { ...card.values, uid: '0' } };
      for (const { fields, size } of filledBy(plan)) {
        const wrapped = () => new Uint8Array(wrappedLength(fields));
        bytesOfFields(fields, size, { ...known, wrapped });
      }
      if (plan.kind === 'tag') contentsOf(plan, known);
    } catch (error) {
      if (!(error instanceof RawBitsError)) throw error;
      throw new HttpProblem(422, {
        ...error.toFailure(),
        message: `Card ${called}: ${error.message}`,
        where: { field: 'cards' },
        hint: 'Fill in what is missing at the card or its holder, or take the field out of the plan.',
      });
    }
}

const wrappedLength = (fields: readonly { length: number; content: { is: string } }[]): number =>
  fields.find(({ content }) => content.is === 'wrapped')?.length ?? 24;
