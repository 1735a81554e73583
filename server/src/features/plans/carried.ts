/** How many cards carry which version of a plan and of its keys, kept as they come and go: nobody counts them. */
import { createHash } from 'node:crypto';
import type { ChipPlan, PlanOnFile } from '@rawbits/api';
import { keyNamesOf, keyOriginOf } from '@rawbits/core/plan';
import { and, eq, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { currentVersions } from '../keys/index.ts';
import { type EncodedRow, planLevelTable, planVersionTable } from './tables.ts';

/** What of a chip says how it is counted. */
type Carrier = Pick<EncodedRow, 'siteId' | 'planId' | 'version' | 'keys'>;

/** Counts a card of a version, with these versions of its keys, more or fewer. */
export async function countCarriers(
  tx: Queryable,
  { siteId, planId, version, keys }: Carrier,
  by: 1 | -1,
): Promise<void> {
  await tx
    .update(planVersionTable)
    .set({ cards: sql`${planVersionTable.cards} + ${by}` })
    .where(and(eq(planVersionTable.planId, planId), eq(planVersionTable.version, version)));
  const sorted = Object.entries(keys as Record<string, number>).sort(([a], [b]) => (a < b ? -1 : 1));
  const level = createHash('sha256').update(JSON.stringify(sorted)).digest('hex');
  await tx
    .insert(planLevelTable)
    .values({ planId, version, level, siteId, keys, cards: by })
    .onDuplicateKeyUpdate({ set: { cards: sql`${planLevelTable.cards} + ${by}` } });
}

/** How many cards of the current version have an older version of a key than the one in use. */
export async function behindKeys(
  db: Queryable,
  siteId: string,
  plan: ChipPlan,
  version: number,
  planId: string,
): Promise<PlanOnFile['behind']> {
  const now = await currentVersions(
    db,
    siteId,
    keyNamesOf(plan).map((name) => ({ name, from: keyOriginOf(plan, name) })),
  );
  const wanted = Object.fromEntries([...now].filter(([, current]) => current !== null));
  if (Object.keys(wanted).length === 0) return 0;
  const rows = await db
    .select()
    .from(planLevelTable)
    .where(and(eq(planLevelTable.planId, planId), eq(planLevelTable.version, version)));
  return rows
    .filter(({ keys }) =>
      Object.entries(wanted).some(([name, current]) => (keys as Record<string, number>)[name] !== current),
    )
    .reduce((sum, { cards }) => sum + cards, 0);
}
