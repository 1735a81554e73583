/**
 * The bits of cards from before cards kept their own: worked out once, from the versions of their format. Where those
 * give different bits it is not known which the card has; it stays unknown, and dry runs say so.
 */

import type { Format } from '@rawbits/core/format';
import { and, asc, eq, gt, isNull } from 'drizzle-orm';
import type { Database } from '../../platform/database/index.ts';
import { installationTable } from '../../platform/database/tables.ts';
import { versionsOf } from '../library/index.ts';
import { bitsOf } from './bitsOf.ts';
import { cardTable } from './tables.ts';

const DONE = 'bits of older cards';
const PAGE = 1000;

export async function fillBits(db: Database): Promise<number> {
  const mark = eq(installationTable.name, DONE);
  if ((await db.$count(installationTable, mark)) > 0) return 0;
  let filled = 0;
  const layouts = new Map<string, Format[]>();
  for (let after = ''; ; ) {
    const page = await db
      .select()
      .from(cardTable)
      .where(and(isNull(cardTable.bits), gt(cardTable.id, after)))
      .orderBy(asc(cardTable.id))
      .limit(PAGE);
    for (const card of page) {
      if (!layouts.has(card.formatId)) layouts.set(card.formatId, await layoutsOf(db, card.formatId));
      const bits = agreed(layouts.get(card.formatId)!.map((format) => bitsOrNull(format, card)));
      if (bits === null) continue;
      await db
        .update(cardTable)
        .set({ bits })
        .where(and(eq(cardTable.id, card.id), isNull(cardTable.bits)));
      filled++;
    }
    if (page.length < PAGE) break;
    after = page.at(-1)!.id;
  }
  await db
    .insert(installationTable)
    .ignore()
    .values({ name: DONE, value: String(filled) });
  return filled;
}

const layoutsOf = async (db: Database, formatId: string): Promise<Format[]> =>
  (await versionsOf(db, formatId).catch(() => [])).map(({ format }) => format);

function bitsOrNull(format: Format, card: { facility: string; number: string }): string | null {
  try {
    return bitsOf(format, card);
  } catch {
    // The card's number is too great for this version, which was not the one it was entered under.
    return null;
  }
}

/** The one value that all versions give; null where they differ, or one gives none. */
function agreed(all: (string | null)[]): string | null {
  const [first = null] = all;
  return all.every((bits) => bits === first) ? first : null;
}
