/** What a site uses of a format: counted by the database, along one index. */

import type { FormatUse } from '@rawbits/api';
import { capacityOf } from '@rawbits/core/codec';
import { and, count, eq, max, min, type SQL, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { cardTable, numberKey } from '../cards/index.ts';
import { adoptedFormats, versionsOf } from '../library/index.ts';

const PARTS = 64n;

export async function formatUse(db: Queryable, siteId: string, formatId: string): Promise<FormatUse> {
  const adopted = (await adoptedFormats(db, siteId)).find((f) => f.format.id === formatId);
  const { format } = adopted ?? (await versionsOf(db, formatId))[0]!;
  const own = and(eq(cardTable.siteId, siteId), eq(cardTable.formatId, formatId));
  const facilities = await db
    .select({
      facility: cardTable.facility,
      cards: count(),
      least: min(cardTable.numberKey),
      greatest: max(cardTable.numberKey),
    })
    .from(cardTable)
    .where(own)
    .groupBy(cardTable.facility);
  const parts = partsOf(capacityOf(format).numbers ?? 1n);
  const counts = await countParts(db, own, parts);
  return {
    cards: facilities.reduce((sum, { cards }) => sum + cards, 0),
    facilities: facilities
      .map(({ facility, cards, least, greatest }) => ({
        facility: facility || null,
        cards,
        least: least!.slice(3),
        greatest: greatest!.slice(3),
      }))
      .sort((a, b) => b.cards - a.cards),
    parts: parts.map(({ from, to }, i) => ({ from: from.toString(), to: to.toString(), cards: counts.get(i) ?? 0 })),
  };
}

interface Part {
  from: bigint;
  to: bigint;
}

/** Up to 64 equal parts of so many numbers from 0. */
function partsOf(numbers: bigint): Part[] {
  const width = numbers > PARTS ? (numbers + PARTS - 1n) / PARTS : 1n;
  const parts: Part[] = [];
  for (let from = 0n; from < numbers; from += width) {
    const end = from + width;
    parts.push({ from, to: (end > numbers ? numbers : end) - 1n });
  }
  return parts;
}

/** How many cards lie in each part; numbers above the last count for none. */
async function countParts(
  db: Queryable,
  own: SQL | undefined,
  parts: readonly Part[],
): Promise<ReadonlyMap<number, number>> {
  const cases = parts.map(({ to }, i) => sql`when ${cardTable.numberKey} <= ${numberKey(to.toString())} then ${i}`);
  const part = sql<number>`case ${sql.join(cases, sql` `)} end`.mapWith(Number);
  const rows = await db
    .select({ part: part.as('part'), cards: count() })
    .from(cardTable)
    .where(own)
    .groupBy(sql`part`);
  return new Map(rows.map(({ part, cards }) => [part, cards]));
}
