/** What a site uses of a format. Numbers are decimal strings of any length, so they are counted here, not in SQL. */

import type { FormatUse } from '@rawbits/api';
import { capacityOf } from '@rawbits/core/codec';
import { and, eq } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { cardTable } from '../cards/index.ts';
import { adoptedFormats, versionsOf } from '../library/index.ts';

const PARTS = 64n;

export async function formatUse(db: Queryable, siteId: string, formatId: string): Promise<FormatUse> {
  const adopted = (await adoptedFormats(db, siteId)).find((f) => f.format.id === formatId);
  const { format } = adopted ?? (await versionsOf(db, formatId))[0]!;
  const rows = await db
    .select({ facility: cardTable.facility, number: cardTable.number })
    .from(cardTable)
    .where(and(eq(cardTable.siteId, siteId), eq(cardTable.formatId, formatId)));
  const numbers = capacityOf(format).numbers ?? 1n;
  const width = numbers > PARTS ? (numbers + PARTS - 1n) / PARTS : 1n;
  const count = Number((numbers + width - 1n) / width);
  const counts = new Array<number>(count).fill(0);
  const facilities = new Map<string, { cards: number; least: bigint; greatest: bigint }>();
  for (const row of rows) {
    const number = BigInt(row.number);
    const part = Number(number / width);
    if (part < count) counts[part]!++;
    const entry = facilities.get(row.facility) ?? { cards: 0, least: number, greatest: number };
    entry.cards++;
    if (number < entry.least) entry.least = number;
    if (number > entry.greatest) entry.greatest = number;
    facilities.set(row.facility, entry);
  }
  return {
    cards: rows.length,
    facilities: [...facilities]
      .map(([facility, { cards, least, greatest }]) => ({
        facility: facility || null,
        cards,
        least: least.toString(),
        greatest: greatest.toString(),
      }))
      .sort((a, b) => b.cards - a.cards),
    parts: counts.map((cards, i) => {
      const from = BigInt(i) * width;
      const to = from + width > numbers ? numbers - 1n : from + width - 1n;
      return { from: from.toString(), to: to.toString(), cards };
    }),
  };
}
