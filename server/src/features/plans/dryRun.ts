/**
 * What a changed plan would mean: for the cards of each version, told on one simulated card a version; for readers, on what they
 * read. It is worked out beside the thread that answers.
 */
import type { ChipPlan, PlanChangeShown } from '@rawbits/api';
import { differencesOf, keyNamesOf, keyOriginOf, readerSettingsSchema } from '@rawbits/core/plan';
import { and, eq } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { readerTable } from '../doors/index.ts';
import { currentVersions } from '../keys/index.ts';
import { findPlan, planIn, versionsOfPlan } from './describe.ts';
import { readerPlanTable } from './tables.ts';

export async function changeOf(app: App, site: string, id: string, next: ChipPlan): Promise<PlanChangeShown> {
  const { db } = app;
  const plan = await findPlan(db, site, id);
  const versions = await versionsOfPlan(db, id);
  const current = planIn(versions.find(({ version }) => version === plan.current)!);
  const carried = versions.filter(({ version, cards }) => cards > 0 || version === plan.current);
  const readers = await readersBy(db, site, id);
  const { changes, refusals } = await app.workers.run('changePlan', {
    was: carried.map(planIn),
    next,
    readers: readers.map(({ row }) => readerSettingsSchema.parse(row.settings)),
  });
  const there = await currentVersions(
    db,
    site,
    keyNamesOf(next).map((name) => ({ name, from: keyOriginOf(next, name) })),
  );
  return {
    cards: carried.map(({ version, cards }, i) => {
      const { steps, keys, refused = null } = changes[i]!;
      return { version, cards, steps, keys, refused };
    }),
    differences: differencesOf(current, next),
    missing: [...there].flatMap(([name, version]) => (version === null ? [name] : [])),
    readers: readers.flatMap(({ reader }, i) =>
      i < refusals.length ? [{ id: reader.id, name: reader.name, refuses: refusals[i]! }] : [],
    ),
  };
}

/** The readers that are set up by a plan. */
const readersBy = (db: Queryable, site: string, planId: string) =>
  db
    .select({ row: readerPlanTable, reader: readerTable })
    .from(readerPlanTable)
    .innerJoin(readerTable, eq(readerTable.id, readerPlanTable.readerId))
    .where(and(eq(readerPlanTable.siteId, site), eq(readerPlanTable.planId, planId)));
