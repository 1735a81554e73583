/** Where cards meet at a controller that ignores the facility code, and compares the number alone. */
import type { Collisions } from '@rawbits/api';
import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import { type Queryable, tables } from '../database/index.ts';
import { siteImages } from '../doors/images.ts';

const MOST = 200;

export async function collisionsOf(db: Queryable, siteId: string): Promise<Collisions> {
  const twice = db
    .select({ number: tables.cards.number })
    .from(tables.cards)
    .where(eq(tables.cards.siteId, siteId))
    .groupBy(tables.cards.number)
    .having(sql`count(*) > 1`);
  const numbers = await twice;
  const listed = numbers.slice(0, MOST).map((row) => row.number);
  const rows =
    listed.length === 0
      ? []
      : await db
          .select({ card: tables.cards, holder: tables.cardholders.name })
          .from(tables.cards)
          .leftJoin(tables.cardholders, eq(tables.cardholders.id, tables.cards.holderId))
          .where(and(eq(tables.cards.siteId, siteId), inArray(tables.cards.number, listed)))
          .orderBy(asc(tables.cards.number), asc(tables.cards.formatId), asc(tables.cards.facility));
  const ignoring = (await siteImages(db, siteId))
    .filter(({ controller }) => !controller.comparesFacility)
    .map(({ controller, wanted }) => ({ name: controller.name, formats: wanted.formats.map((f) => f.id) }));
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
