/** Readers set up by a plan: their settings and keys go to the reader itself; what is kept here is which, not the keys. */
import { type ReaderPlan, type ReaderSetUp, readerPlanApi } from '@rawbits/api';
import { hexOf } from '@rawbits/core/cipher';
import { checkValueOf, type KeyKind } from '@rawbits/core/key';
import { keyOriginOf, keysOfReader, type ReaderSettings, readerAt, readerSettingsSchema } from '@rawbits/core/plan';
import { and, eq } from 'drizzle-orm';
import { HostRefusal } from '../../devices/line.ts';
import type { HostRow } from '../../devices/tables.ts';
import type { Queryable } from '../../platform/database/index.ts';
import { type App, type Asking, handle } from '../../platform/http/app.ts';
import { conflict, HttpProblem, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { acceptedLengths, controllerTable, readerTable } from '../doors/index.ts';
import {
  checkKeysThere,
  currentVersions,
  endHoldings,
  materialFor,
  noteReaderHolds,
  type PlanAt,
  type ReaderDestination,
  steadily,
} from '../keys/index.ts';
import { currentPlanAt, planIn, planTable, readerPlanTable, versionsOfPlan } from '../plans/index.ts';
import { wouldOpen } from './wouldOpen.ts';

type Kept = { name: string; version: number; checkValue: string }[];

async function describe(db: Queryable, site: string, only?: string): Promise<ReaderPlan[]> {
  const rows = await db
    .select({ row: readerPlanTable, plan: planTable, controller: controllerTable })
    .from(readerPlanTable)
    .innerJoin(planTable, eq(planTable.id, readerPlanTable.planId))
    .innerJoin(readerTable, eq(readerTable.id, readerPlanTable.readerId))
    .leftJoin(controllerTable, eq(controllerTable.id, readerTable.controllerId))
    .where(and(eq(readerPlanTable.siteId, site), only === undefined ? undefined : eq(readerPlanTable.readerId, only)));
  const lengths = rows.length > 0 ? await acceptedLengths(db, site) : new Map<string, Set<number>>();
  return Promise.all(
    rows.map(async ({ row, plan, controller }) => {
      const kept = row.keys as Kept;
      const version = (await versionsOfPlan(db, plan.id)).find((one) => one.version === row.version);
      const definition = version && planIn(version);
      const now = definition
        ? await currentVersions(
            db,
            site,
            kept.map(({ name }) => ({ name, from: keyOriginOf(definition, name) })),
          )
        : new Map<string, number | null>();
      const settings = readerSettingsSchema.parse(row.settings);
      return {
        readerId: row.readerId,
        plan: { id: plan.id, name: plan.name, version: row.version },
        field: row.field,
        settings,
        problem: controller && lengthProblem(settings, controller.name, lengths.get(controller.id)),
        keys: kept.map((key) => ({ ...key, isCurrent: now.get(key.name) === key.version })),
        setBy: row.setBy,
        setAt: row.setAt.toISOString(),
      };
    }),
  );
}

/** What a reader sends that its controller has no format for is refused, whatever stands in it. */
function lengthProblem(settings: ReaderSettings, controller: string, accepted = new Set<number>()): string | null {
  if (!('bits' in settings) || accepted.has(settings.bits)) return null;
  const others = [...accepted].sort((a, b) => a - b).join(', ');
  const has = others === '' ? 'accepts no format' : `accepts formats of ${others} bits`;
  return `It sends ${settings.bits} bits, and ${controller} ${has}: every card is refused.`;
}

const list = handle(readerPlanApi.list, ({ app, site }) => describe(app.db, site));

async function findReader(db: Queryable, site: string, id: string) {
  const [reader] = await db
    .select()
    .from(readerTable)
    .where(and(eq(readerTable.id, id), eq(readerTable.siteId, site)));
  if (!reader) throw notFound('reader');
  return reader;
}

/**
 * The keys that a reader is given, by the plan's names; those in use. Throws where one is not in the store, or may not go to
 * this reader; where only a custodian's agreement is missing it has been asked for then.
 */
async function keysFor(
  app: App,
  who: Asking,
  site: string,
  at: PlanAt,
  settings: ReaderSettings,
  to: ReaderDestination,
) {
  await checkKeysThere(app.db, site, at.plan, to.names);
  const material = await materialFor(app, who, site, at, to);
  const kind = settings.reads === 'file' ? settings.keyKind : 'sector';
  const keys: ReaderSetUp['keys'] = {};
  const kept: Kept = [];
  const ids: { id: string; version: number }[] = [];
  for (const name of to.names) {
    const key = material.of(at.plan, name);
    const first = key?.versions[0];
    if (!key || !first) continue;
    if (key.kind !== kind)
      throw conflict('key-kind', `The key "${name}" is one of ${key.kind}, and the card has keys of ${kind} there.`);
    const bytes = first.asItIs();
    keys[name] = { kind, hex: hexOf(bytes), version: first.version };
    kept.push({ name, version: first.version, checkValue: checkValueOf(key.kind as KeyKind, bytes) });
    ids.push({ id: key.id, version: first.version });
  }
  return { keys, kept, ids };
}

/** A device that does not take it says so, and nothing is kept. */
async function tell(app: App, host: HostRow, device: string, setUp: ReaderSetUp): Promise<void> {
  try {
    await app.devices.setReader(host, device, setUp);
  } catch (error) {
    throw away(error);
  }
}

const hostOf = (app: App, site: string, device: string): Promise<HostRow> =>
  app.devices.hostOfReader(site, device).catch((error) => {
    throw away(error);
  });

const away = (error: unknown): unknown =>
  error instanceof HostRefusal
    ? new HttpProblem(503, {
        code: 'reader-away',
        message: error.message,
        hint: 'See that the rig runs, and set the reader up again.',
      })
    : error;

/**
 * Throws where the reader was set up otherwise since the form was filled in. Of two at once the second waits: the reader is told
 * while its row is held.
 */
async function checkOver(tx: Queryable, readerId: string, over: string | null | undefined): Promise<void> {
  await tx.select({ id: readerTable.id }).from(readerTable).where(eq(readerTable.id, readerId)).for('update');
  const [now] = await tx.select().from(readerPlanTable).where(eq(readerPlanTable.readerId, readerId));
  if (over === undefined || over === (now?.setAt.toISOString() ?? null)) return;
  throw conflict(
    'changed-meanwhile',
    now ? `${now.setBy} set this reader up meanwhile.` : 'Somebody has set this reader back meanwhile.',
    'Look at it as it is now.',
  );
}

const set = handle(readerPlanApi.set, async ({ app, operator, site, params, body }) => {
  const reader = await findReader(app.db, site, params.id!);
  const { field } = body.at;
  const { plan, settings, host, keys, kept, ids } = await steadily(async () => {
    const plan = await currentPlanAt(app, app.db, site, body.planId);
    const settings = readerAt(plan.plan, body.at, body.bits);
    const host = await hostOf(app, site, reader.device);
    const to = { to: 'reader', host, reader, names: keysOfReader(settings) } as const;
    return { plan, settings, host, ...(await keysFor(app, operator, site, plan, settings, to)) };
  });
  await change(app, operator, site, async (tx, record) => {
    await checkOver(tx, reader.id, body.over);
    await tell(app, host, reader.device, { reads: settings, keys });
    const row = {
      siteId: site,
      planId: plan.planId,
      version: plan.version,
      field,
      settings,
      keys: kept,
      setBy: operator.name,
      setAt: new Date(),
    };
    await tx
      .insert(readerPlanTable)
      .values({ readerId: reader.id, ...row })
      .onDuplicateKeyUpdate({ set: row });
    await endHoldings(tx, site, reader.id);
    for (const { id, version } of ids) await noteReaderHolds(tx, site, id, version, reader);
    record.trail({
      action: 'reader set up',
      subject: `reader ${reader.name}`,
      after: { plan: plan.name, version: plan.version, field, keys: kept },
    });
    record.announce('plans', { ids: [plan.planId] });
    record.announce('keys');
  });
  return (await describe(app.db, site, reader.id))[0];
});

const end = handle(readerPlanApi.end, async ({ app, operator, site, params, query }) => {
  const reader = await findReader(app.db, site, params.id!);
  await change(app, operator, site, async (tx, record) => {
    await checkOver(tx, reader.id, query.over);
    await tell(app, await hostOf(app, site, reader.device), reader.device, { reads: { reads: 'uid' }, keys: {} });
    await tx.delete(readerPlanTable).where(eq(readerPlanTable.readerId, reader.id));
    await endHoldings(tx, site, reader.id);
    record.trail({ action: 'reader set back', subject: `reader ${reader.name}` });
    record.announce('plans');
    record.announce('keys');
  });
  return {};
});

const who = handle(readerPlanApi.wouldOpen, async ({ app, site, params, query }) => {
  const reader = await findReader(app.db, site, params.id!);
  const [found] = await describe(app.db, site, reader.id);
  if (!found) throw conflict('not-by-plan', 'This reader is not set up by a plan.', 'Set it up for a field first.');
  return wouldOpen(app, site, reader, found, query);
});

export const readerPlanRoutes = [list, set, end, who];
