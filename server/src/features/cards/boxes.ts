/** Which box a card is of, and what becomes of boxes whose facility code changes. */
import { and, asc, eq, gte, lte, type SQL } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { numberKey } from './numberKey.ts';
import { boxTable } from './tables.ts';

/** The first entered of the boxes whose label names this card; null where none does. */
export async function boxOf(
  db: Queryable,
  siteId: string,
  { formatId, facility, number }: { formatId: string; facility: string; number: string },
): Promise<string | null> {
  const key = numberKey(number);
  const [box] = await db
    .select({ id: boxTable.id })
    .from(boxTable)
    .where(
      and(
        eq(boxTable.siteId, siteId),
        eq(boxTable.formatId, formatId),
        eq(boxTable.facility, facility),
        lte(boxTable.firstKey, key),
        gte(boxTable.lastKey, key),
      ),
    )
    .orderBy(asc(boxTable.enteredAt), asc(boxTable.id))
    .limit(1);
  return box?.id ?? null;
}

/** The boxes for which `which` holds have another facility code, as their cards have. */
export async function boxesMoved(tx: Queryable, which: SQL | undefined, facility: string): Promise<void> {
  await tx.update(boxTable).set({ facility }).where(which);
}
