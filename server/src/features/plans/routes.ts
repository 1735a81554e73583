/** Chip plans: kept in versions, each with what must stay true of it. */

import { type ChipPlan, planApi } from '@rawbits/api';
import { problemsOf } from '@rawbits/core/plan';
import { and, eq, sql } from 'drizzle-orm';
import { isDuplicate, newId, type Queryable } from '../../platform/database/index.ts';
import { type App, type Asking, handle } from '../../platform/http/app.ts';
import { marksOf, unmarkRow } from '../../platform/marks/index.ts';
import { conflict, HttpProblem, notFound } from '../../platform/problem/problem.ts';
import { change, type Record } from '../../platform/trail/change.ts';
import {
  askWithPlan,
  dropRequestsOf,
  markOfPlan,
  markOfVersion,
  planChanged,
  type Reach,
  reachOfKeys,
} from '../keys/index.ts';
import {
  currentPlanAt,
  describePlan,
  describePlans,
  findPlan,
  markPlan,
  type PlanRow,
  planAt,
  versionsOfPlan,
} from './describe.ts';
import { changeOf } from './dryRun.ts';
import { heldBy } from './held.ts';
import { encodedTable, planLevelTable, planTable, planVersionTable } from './tables.ts';

const list = handle(planApi.list, ({ app, site }) => describePlans(app.db, site));
const one = handle(planApi.one, ({ app, site, params }) => describePlan(app, site, params.id!));

/** What holds of a plan. Throws where it cannot be encoded or an assertion does not hold, unless it is kept even so. */
async function checked(app: App, plan: ChipPlan, evenSo: boolean) {
  const held = await heldBy(app.workers, plan);
  if (evenSo) return held;
  const error = problemsOf(plan).find(({ weight }) => weight === 'error');
  if (error)
    throw new HttpProblem(422, {
      code: `plan-${error.code}`,
      message: error.message,
      where: { field: `plan.${error.where}` },
      hint: 'Put it right, or keep the plan even so: it cannot be encoded until it is.',
    });
  const broken = held.find(({ holds }) => !holds);
  if (broken)
    throw conflict(
      'assertion-broken',
      `What must stay true does not: ${broken.keys.length === 0 ? 'anybody' : `whoever has ${broken.keys.map((key) => `"${key}"`).join(' and ')}`} can ${broken.assertion.can}.`,
      'See how on the plan, put it right, or keep the plan even so.',
      'plan.assertions',
    );
  return held;
}

const add = handle(planApi.add, async ({ app, operator, site, body }) => {
  const { plan, notes } = body;
  const held = await checked(app, plan, body.evenSo);
  const reach = await reachOfKeys(app, plan);
  const id = newId();
  const now = new Date();
  try {
    await change(app, operator, site, async (tx, record) => {
      await tx
        .insert(planTable)
        .values({ id, siteId: site, name: plan.name, kind: plan.kind, current: 1, createdAt: now });
      await insertVersion(tx, { planId: id, version: 1, siteId: site, plan, notes, held, madeBy: operator.name, now });
      await saved(app, tx, record, operator, { id, site, reach });
      record.trail({ action: 'plan made', subject: `plan ${plan.name}`, after: plan });
      record.announce('plans', { ids: [id] });
    });
  } catch (error) {
    throw isDuplicate(error) ? nameTaken(plan.name) : error;
  }
  return describePlan(app, site, id);
});

/** Marks what was saved, and asks for its keys where they are exposed otherwise than before. */
async function saved(
  app: App,
  tx: Queryable,
  record: Record,
  operator: Asking,
  { id, site, reach }: { id: string; site: string; reach: Reach },
): Promise<void> {
  await markPlan(app, tx, site, await currentPlanAt(app, tx, site, id));
  const at = await currentPlanAt(app, tx, site, id);
  await askWithPlan(app, tx, record, operator, site, at, reach);
}

/** Throws where the plan is not as it was saved: a new version would hide it. */
async function checkMark(app: App, tx: Queryable, plan: PlanRow): Promise<void> {
  const versions = await versionsOfPlan(tx, plan.id);
  const at = planAt(plan, versions.find(({ version }) => version === plan.current) ?? versions[0]!);
  const head = (await marksOf(app, tx, 'plan', [markOfPlan(at)])).get(plan.id)!;
  const [version] = (await marksOf(app, tx, 'plan version', [markOfVersion(at)])).values();
  const changed = planChanged(at, version!, head);
  if (changed) throw changed;
}

const nameTaken = (name: string) =>
  conflict('name-taken', `There is a plan "${name}" already.`, 'Choose another name.', 'plan.name');

interface NewVersion {
  planId: string;
  version: number;
  siteId: string;
  plan: ChipPlan;
  notes: string;
  held: unknown;
  madeBy: string;
  now: Date;
}

async function insertVersion(tx: Queryable, { plan, now, ...row }: NewVersion): Promise<void> {
  await tx.insert(planVersionTable).values({ ...row, definition: plan, madeAt: now });
}

const addVersion = handle(planApi.addVersion, async ({ app, operator, site, params, body }) => {
  const { plan, notes, basedOn } = body;
  const held = await checked(app, plan, body.evenSo);
  const reach = await reachOfKeys(app, plan);
  const id = params.id!;
  const own = and(eq(planTable.id, id), eq(planTable.siteId, site));
  try {
    await change(app, operator, site, async (tx, record) => {
      await tx
        .update(planTable)
        .set({ guard: sql`${planTable.guard} + 1` })
        .where(own);
      const before = await findPlan(tx, site, id);
      await checkMark(app, tx, before);
      if (before.kind !== plan.kind)
        throw conflict('plan-kind', 'A plan stays one of its kind of card.', 'Make a new plan.', 'plan.kind');
      if (before.current !== basedOn)
        throw conflict(
          'changed-meanwhile',
          `Somebody saved version ${before.current} meanwhile, and this was made from version ${basedOn}.`,
          'Compare the two; what you entered is kept.',
        );
      const version = before.current + 1;
      await insertVersion(tx, {
        planId: id,
        version,
        siteId: site,
        plan,
        notes,
        held,
        madeBy: operator.name,
        now: new Date(),
      });
      await tx.update(planTable).set({ current: version, name: plan.name }).where(own);
      await saved(app, tx, record, operator, { id, site, reach });
      record.trail({ action: 'plan changed', subject: `plan ${plan.name}`, after: { version, notes, plan } });
      record.announce('plans', { ids: [id] });
    });
  } catch (error) {
    throw isDuplicate(error) ? nameTaken(plan.name) : error;
  }
  return describePlan(app, site, id);
});

const remove = handle(planApi.remove, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const own = and(eq(planTable.id, params.id!), eq(planTable.siteId, site));
    await tx
      .update(planTable)
      .set({ guard: sql`${planTable.guard} + 1` })
      .where(own);
    const [plan] = await tx.select().from(planTable).where(own);
    if (!plan) throw notFound('plan');
    const carried = await tx.$count(encodedTable, and(eq(encodedTable.siteId, site), eq(encodedTable.planId, plan.id)));
    if (carried > 0)
      throw conflict(
        'plan-carried',
        `${carried} ${carried === 1 ? 'card carries' : 'cards carry'} this plan.`,
        'Take them back first: without the plan nobody knows what is on them.',
      );
    const versions = await versionsOfPlan(tx, plan.id);
    await unmarkRow(tx, 'plan version', ...versions.map(({ version }) => `${plan.id}/${version}`));
    await unmarkRow(tx, 'plan', plan.id);
    await dropRequestsOf(app, tx, site, plan.id);
    record.announce('keys');
    await tx.delete(planLevelTable).where(eq(planLevelTable.planId, plan.id));
    await tx.delete(planVersionTable).where(eq(planVersionTable.planId, plan.id));
    await tx.delete(planTable).where(own);
    record.trail({ action: 'plan given up', subject: `plan ${plan.name}`, before: { version: plan.current } });
    record.announce('plans');
    return {};
  }),
);

const dryRun = handle(planApi.dryRun, ({ app, site, params, body }) => changeOf(app, site, params.id!, body.plan));

export const planRoutes = [list, one, add, addVersion, remove, dryRun];
