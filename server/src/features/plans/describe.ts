/** Plans as the API gives them. */

import { type ChipPlan, chipPlanSchema, type OnePlan, type PlanOnFile } from '@rawbits/api';
import { keyNamesOf, keyOriginOf, problemsOf } from '@rawbits/core/plan';
import { and, asc, desc, eq } from 'drizzle-orm';
import { inSnapshot, type Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { markRow, marksOf } from '../../platform/marks/index.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import { keyFacts, keysInPlan, lackingOf, markOfPlan, markOfVersion, type PlanAt, planChanged } from '../keys/index.ts';
import { behindKeys } from './carried.ts';
import { planTable, planVersionTable } from './tables.ts';

export type PlanRow = typeof planTable.$inferSelect;
export type PlanVersionRow = typeof planVersionTable.$inferSelect;
type Held = OnePlan['versions'][number]['assertions'];

/** A version of a plan, as whoever wants its keys names it. */
export const planAt = (plan: PlanRow, row: PlanVersionRow, isMarked = true): PlanAt => ({
  planId: plan.id,
  name: plan.name,
  version: row.version,
  plan: planIn(row),
  definition: row.definition,
  madeBy: row.madeBy,
  head: [plan.name, plan.kind, plan.current],
  isMarked,
});

/** The version of a plan in use, and whether it has a mark. Throws 404, and `plan-changed` where that version is not there. */
export async function currentPlanAt(app: Pick<App, 'trail'>, db: Queryable, site: string, id: string): Promise<PlanAt> {
  const plan = await findPlan(db, site, id);
  return planAtVersion(app, db, plan, plan.current);
}

export async function planAtVersion(
  app: Pick<App, 'trail'>,
  db: Queryable,
  plan: PlanRow,
  version: number,
): Promise<PlanAt> {
  const row = (await versionsOfPlan(db, plan.id)).find((one) => one.version === version);
  if (!row)
    throw conflict(
      'plan-changed',
      `Version ${version} of the plan "${plan.name}" is not there.`,
      'It was taken out of the database. Restore it from a backup.',
    );
  const marks = await marksOf(app, db, 'plan version', [
    markOfVersion({ planId: plan.id, version, definition: row.definition }),
  ]);
  return planAt(plan, row, [...marks.values()][0] !== 'none');
}

/** Every version of a plan, the newest first. Throws 404. */
export async function plansAt({ db }: Pick<App, 'db'>, site: string, id: string): Promise<PlanAt[]> {
  const plan = await findPlan(db, site, id);
  return (await versionsOfPlan(db, id)).map((row) => planAt(plan, row));
}

/** Marks a plan and its newest version as they were saved, in the transaction that wrote them. */
export async function markPlan(app: Pick<App, 'trail'>, tx: Queryable, site: string, at: PlanAt): Promise<void> {
  await markRow(app, tx, site, { kind: 'plan version', ...markOfVersion(at) });
  await markRow(app, tx, site, { kind: 'plan', ...markOfPlan(at) });
}

export const planIn = ({ definition }: PlanVersionRow): ChipPlan => chipPlanSchema.parse(definition);

async function summary(db: Queryable, row: PlanRow, versions: readonly PlanVersionRow[]): Promise<PlanOnFile> {
  const current = versions.find(({ version }) => version === row.current)!;
  const plan = planIn(current);
  const problems = problemsOf(plan);
  const held = current.held as Held;
  const older = versions.filter(({ version }) => version !== row.current).reduce((sum, { cards }) => sum + cards, 0);
  return {
    id: row.id,
    name: row.name,
    kind: row.kind as PlanOnFile['kind'],
    current: row.current,
    cards: versions.reduce((sum, { cards }) => sum + cards, 0),
    behind: older + (await behindKeys(db, row.siteId, plan, row.current, row.id)),
    errors: problems.filter(({ weight }) => weight === 'error').length,
    advice: problems.filter(({ weight }) => weight === 'advice').length,
    keys: keyNamesOf(plan).map((name) => ({ name, from: keyOriginOf(plan, name) ?? null })),
    held: { hold: held.filter(({ holds }) => holds).length, of: held.length },
  };
}

export async function describePlans(db: Queryable, site: string): Promise<PlanOnFile[]> {
  const plans = await db.select().from(planTable).where(eq(planTable.siteId, site)).orderBy(asc(planTable.name));
  const versions = await db.select().from(planVersionTable).where(eq(planVersionTable.siteId, site));
  return Promise.all(
    plans.map((plan) =>
      summary(
        db,
        plan,
        versions.filter(({ planId }) => planId === plan.id),
      ),
    ),
  );
}

export const describePlan = (app: App, site: string, id: string): Promise<OnePlan> =>
  inSnapshot(app.db, (tx) => describeOne(app, tx, site, id));

async function describeOne(app: App, db: Queryable, site: string, id: string): Promise<OnePlan> {
  const plan = await findPlan(db, site, id);
  const versions = await versionsOfPlan(db, id);
  const current = versions.find(({ version }) => version === plan.current);
  return {
    ...(await keysOf(app, db, site, current && planAt(plan, current))),
    ...(await summary(db, plan, versions)),
    versions: versions.map((row) => ({
      version: row.version,
      plan: planIn(row),
      notes: row.notes,
      madeBy: row.madeBy,
      madeAt: row.madeAt.toISOString(),
      cards: row.cards,
      assertions: row.held as Held,
    })),
  };
}

/** Whether its keys are used by it, and which of them wait for a custodian. */
async function keysOf(
  app: App,
  db: Queryable,
  site: string,
  at?: PlanAt,
): Promise<Pick<OnePlan, 'problem' | 'keysWaiting'>> {
  if (!at) return { problem: 'The version in use is not there: it was taken out of the database.', keysWaiting: [] };
  const keys = keysInPlan(await keyFacts(app, db, site), at.plan);
  const version = [...(await marksOf(app, db, 'plan version', [markOfVersion(at)])).values()][0]!;
  const head = [...(await marksOf(app, db, 'plan', [markOfPlan(at)])).values()][0]!;
  const waits = keys.filter(({ facts }) => lackingOf(facts.use, at, { to: 'simulated card' }).plan);
  return {
    problem: keys.length === 0 ? null : (planChanged(at, version, head)?.message ?? null),
    keysWaiting: waits.map(({ name }) => name),
  };
}

export async function findPlan(db: Queryable, site: string, id: string): Promise<PlanRow> {
  const [plan] = await db
    .select()
    .from(planTable)
    .where(and(eq(planTable.id, id), eq(planTable.siteId, site)));
  if (!plan) throw notFound('plan');
  return plan;
}

/** The newest first. */
export const versionsOfPlan = (db: Queryable, id: string): Promise<PlanVersionRow[]> =>
  db.select().from(planVersionTable).where(eq(planVersionTable.planId, id)).orderBy(desc(planVersionTable.version));
