/** Which cards carry which version of a plan and of its keys, kept as they come and go: nobody counts them. */
import type { ChipPlan, PlanOnFile } from '@rawbits/api';
import { keyNames, keyNamesOfSectors } from '@rawbits/core/plan';
import { and, eq, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { currentVersions } from '../keys/index.ts';
import { encodedTable, planVersionTable } from './tables.ts';

export const namesIn = (plan: ChipPlan): string[] => (plan.kind === 'files' ? keyNames(plan) : keyNamesOfSectors(plan));

/** How a plan says which key of the store is meant by a name. */
export const fromOf = (plan: ChipPlan, name: string): { set: string; key: string } | undefined =>
  plan.kind === 'files' ? plan.keys.find((key) => key.name === name)?.from : undefined;

/** Counts cards of a version more, or fewer. */
export async function countCarriers(tx: Queryable, planId: string, version: number, by: number): Promise<void> {
  await tx
    .update(planVersionTable)
    .set({ cards: sql`${planVersionTable.cards} + ${by}` })
    .where(and(eq(planVersionTable.planId, planId), eq(planVersionTable.version, version)));
}

/** How many cards of the current version have an older version of a key than the one in use: costs the cards of the plan. */
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
    namesIn(plan).map((name) => ({ name, from: fromOf(plan, name) })),
  );
  const wanted = Object.fromEntries([...now].filter(([, current]) => current !== null));
  if (Object.keys(wanted).length === 0) return 0;
  const rows = await db
    .select({ keys: encodedTable.keys, cards: sql<number>`COUNT(*)`.mapWith(Number) })
    .from(encodedTable)
    .where(
      and(
        eq(encodedTable.siteId, siteId),
        eq(encodedTable.planId, planId),
        eq(encodedTable.version, version),
        eq(encodedTable.state, 'whole'),
      ),
    )
    .groupBy(encodedTable.keys);
  return rows
    .filter(({ keys }) =>
      Object.entries(wanted).some(([name, current]) => (keys as Record<string, number>)[name] !== current),
    )
    .reduce((sum, { cards }) => sum + cards, 0);
}
