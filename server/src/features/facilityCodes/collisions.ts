/** Where cards meet at a controller that ignores the facility code, and compares the number alone. */

import type { Collisions } from '@rawbits/api';
import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { acceptedBy, controllerTable } from '../doors/index.ts';

const MOST = 200;

export async function collisionsOf(db: Queryable, siteId: string): Promise<Collisions> {
  const twice = db
    .select({ number: cardTable.number })
    .from(cardTable)
    .where(eq(cardTable.siteId, siteId))
    .groupBy(cardTable.number)
    .having(sql`count(*) > 1`);
  const numbers = await twice;
  const listed = numbers.slice(0, MOST).map((row) => row.number);
  const rows =
    listed.length === 0
      ? []
      : await db
          .select({ card: cardTable, holder: cardholderTable.name })
          .from(cardTable)
          .leftJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
          .where(and(eq(cardTable.siteId, siteId), inArray(cardTable.number, listed)))
          .orderBy(asc(cardTable.number), asc(cardTable.formatId), asc(cardTable.facility));
  const accepted = await acceptedBy(db, siteId);
  const ignoring = (
    await db
      .select()
      .from(controllerTable)
      .where(and(eq(controllerTable.siteId, siteId), eq(controllerTable.comparesFacility, false)))
      .orderBy(asc(controllerTable.name))
  ).map(({ id, name }) => ({ name, formats: accepted.get(id) ?? [] }));
  return {
    total: numbers.length,
    numbers: listed.map((number) => {
      const cards = rows.filter(({ card }) => card.number === number);
      return {
        number,
        cards: cards.map(({ card, holder }) => ({
          id: card.id,
          formatId: card.formatId,
          facility: card.facility || null,
          number: card.number,
          holder,
          state: card.state as Collisions['numbers'][number]['cards'][number]['state'],
        })),
        at: ignoring
          .filter(({ formats }) => cards.filter(({ card }) => formats.includes(card.formatId)).length > 1)
          .map(({ name }) => name),
      };
    }),
    possible: ignoring
      .filter(({ formats }) => formats.length > 1)
      .map(({ name, formats }) => ({ controller: name, formats })),
  };
}
