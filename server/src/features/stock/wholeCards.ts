/** Cards that were put on file by their whole string, as their format was not known: which a format reads now, and giving them their numbers. */
import { MOST_WHOLE, type WholeCard, wholeCardApi } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { decode } from '@rawbits/core/codec';
import { type Format, isWhole } from '@rawbits/core/format';
import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, HttpProblem, invalid } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { boxOf, cardholderTable, cardTable, countCards, formatsOnFile } from '../cards/index.ts';
import { checkMoved, giveUpCards, noteCards } from '../doors/index.ts';
import { wholeLibrary } from '../library/index.ts';
import { checkNotEncoded } from './correct.ts';
import { adoptedFormat, type Called, canonicalCard, nameOf } from './onFile.ts';

/** So many cards of a length are tried; which of them are given their numbers at once, `MOST_WHOLE` says. */
const MOST_LOOKED = 20_000;

type CardRow = typeof cardTable.$inferSelect;

/** The cards of a site that are known by a whole string of some length, the oldest first. */
async function heldWhole(db: Queryable, site: string, bits: number) {
  const onFile = new Set(await formatsOnFile(db, site));
  const formats = (await wholeLibrary(db)).filter(
    ({ format }) => onFile.has(format.id) && format.bits === bits && isWhole(format),
  );
  if (formats.length === 0) return [];
  return db
    .select({ card: cardTable, holder: { id: cardholderTable.id, name: cardholderTable.name } })
    .from(cardTable)
    .leftJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
    .where(
      and(
        eq(cardTable.siteId, site),
        inArray(
          cardTable.formatId,
          formats.map(({ format }) => format.id),
        ),
      ),
    )
    .orderBy(asc(cardTable.createdAt), asc(cardTable.id))
    .limit(MOST_LOOKED);
}

/** What a format reads in the bits of a card; undefined where it does not read them in full. */
function calledBy(format: Format, { bits }: CardRow): Called | undefined {
  if (bits === null) return undefined;
  const { fit, values } = decode(Bits.fromBinary(bits), format);
  if (fit !== 'full' || values.number === undefined) return undefined;
  return canonicalCard(format, values.facility ?? null, values.number);
}

async function reviewed(db: Queryable, site: string, format: Format) {
  if (isWhole(format)) return { read: [], others: 0 };
  const held = await heldWhole(db, site, format.bits);
  const all = held.flatMap(({ card, holder }) => {
    const called = calledBy(format, card);
    return called ? [{ card, holder, called }] : [];
  });
  const read = all.slice(0, MOST_WHOLE);
  const numbers = read.map(({ called }) => called.number);
  const there =
    numbers.length === 0
      ? []
      : await db
          .select({ facility: cardTable.facility, number: cardTable.number })
          .from(cardTable)
          .where(
            and(eq(cardTable.siteId, site), eq(cardTable.formatId, format.id), inArray(cardTable.number, numbers)),
          );
  const taken = new Set(there.map(nameOf));
  return {
    read: read.map((one) => {
      const refused = taken.has(nameOf(one.called)) ? `${nameOf(one.called)} is on file already.` : null;
      taken.add(nameOf(one.called));
      return { ...one, refused };
    }),
    others: held.length - all.length,
  };
}

const review = handle(wholeCardApi.review, async ({ app: { db }, site, params }) => {
  const { read, others } = await reviewed(db, site, await adoptedFormat(db, site, params.format!));
  return {
    others,
    cards: read.map(
      ({ card, holder, called, refused }): WholeCard => ({
        ...{ id: card.id, revision: card.revision, printed: card.printed, state: card.state as WholeCard['state'] },
        ...{ holder, whole: card.number, facility: called.facility || null, number: called.number, refused },
      }),
    ),
  };
});

const give = handle(wholeCardApi.give, ({ app, operator, site, params, body }) =>
  change(app, operator, site, async (tx, record) => {
    await checkMoved(tx, site);
    const format = await adoptedFormat(tx, site, params.format!);
    const ids = body.cards.map(({ id }) => id);
    if (new Set(ids).size < ids.length) throw invalid('cards', 'A card is named twice.', 'Name each of them once.');
    await tx
      .select({ id: cardTable.id })
      .from(cardTable)
      .where(and(eq(cardTable.siteId, site), inArray(cardTable.id, ids)))
      .for('update');
    const byId = new Map((await reviewed(tx, site, format)).read.map((one) => [one.card.id, one]));
    const moving = body.cards.map(({ id, revision }) => {
      const one = byId.get(id);
      if (!one || one.card.revision !== revision)
        throw conflict('changed-meanwhile', 'Somebody changed one of these cards meanwhile.', 'Look at them again.');
      if (one.refused)
        throw new HttpProblem(409, { code: 'card-on-file', message: one.refused, hint: 'Leave it out.' });
      return one;
    });
    const these = inArray(cardTable.id, ids);
    // Of doors that accept their whole strings, and not the format, they are to go.
    await giveUpCards(tx, site, these);
    for (const { card, called } of moving) {
      await checkNotEncoded(tx, card);
      const boxId = await boxOf(tx, site, { formatId: format.id, ...called });
      await tx
        .update(cardTable)
        .set({ formatId: format.id, ...called, boxId, revision: sql`${cardTable.revision} + 1` })
        .where(eq(cardTable.id, card.id));
      await countCards(tx, card, -1);
      await countCards(tx, { ...card, formatId: format.id, boxId }, 1);
      record.trail({
        action: 'card corrected',
        subject: nameOf(called),
        before: { id: card.id, formatId: card.formatId, facility: card.facility, number: card.number },
        after: { id: card.id, formatId: format.id, ...called, reason: 'its format was found' },
      });
    }
    await noteCards(tx, site, these);
    record.announce('cards', { ids: ids.slice(0, 50) });
    return { cards: moving.length };
  }),
);

export const wholeCardRoutes = [review, give];
