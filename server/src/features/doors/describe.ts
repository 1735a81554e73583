/** A controller as the web shows it: wanted against loaded, and how that stands. */

import type { Controller, Load } from '@rawbits/api';
import { and, asc, eq, inArray, max } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { isSilent, type JobRow, jobTable } from '../../platform/jobs/index.ts';
import { groupedBy } from '../../platform/lists/lists.ts';
import { cardsForDoors } from '../cards/index.ts';
import { acceptedBy } from './accepted.ts';
import { LOAD, memoOf } from './carrying.ts';
import { formatsLoaded } from './items.ts';
import { type ControllerRow, controllerTable, readerTable } from './tables.ts';
import { COUNTED, waitingCounts, waitingNamed } from './waiting.ts';

/** What waits is named so far: of one controller, and of each in a list. */
const SHOWN = { one: 40, list: 8 };

export function describeLoad(row: JobRow): Load {
  return {
    id: row.id,
    state: row.state as Load['state'],
    done: row.done,
    total: row.total,
    // A busy server is silent, too: only one that takes the load over makes it another's.
    message: isSilent(row)
      ? 'Nothing was heard of this load for a while. If its server stopped, another continues it as soon as the controller answers.'
      : row.message,
    startedAt: row.startedAt.toISOString(),
  };
}

export async function describeControllers(app: App, siteId: string, only?: string): Promise<Controller[]> {
  const { db } = app;
  const own = eq(controllerTable.siteId, siteId);
  // A load may take force while this is asked: a digest is looked for among those of before and of after.
  const before = await digestsOf(db, siteId);
  const devices = (await app.devices.of(siteId))?.controllers;
  const controllers = await db
    .select()
    .from(controllerTable)
    .where(only === undefined ? own : and(own, eq(controllerTable.id, only)))
    .orderBy(asc(controllerTable.name));
  const readers = await db.select().from(readerTable).where(eq(readerTable.siteId, siteId)).orderBy(readerTable.name);
  const accepted = await acceptedBy(db, siteId);
  const cards = await cardsForDoors(db, siteId);
  const ids = controllers.map(({ id }) => id);
  const loads = await lastLoads(db, siteId, ids);
  const counts = await waitingCounts(db, ids);
  const having = ids.filter((id) => (counts.get(id) ?? 0) > 0);
  const waiting = await waitingNamed(db, having, only === undefined ? SHOWN.list : SHOWN.one);
  const formats = await formatsLoaded(db, ids);
  const ofController = groupedBy(readers, ({ controllerId }) => controllerId ?? '');
  const byDevice = new Map(devices?.map((device) => [device.id, device.digest]));
  return controllers.map((controller) => {
    const { id, name, device, comparesFacility, loadedCards, loadedAt } = controller;
    const wantedFormats = accepted.get(id) ?? [];
    const load = loads.get(id);
    const count = counts.get(id) ?? 0;
    const now = { digest: byDevice.get(device), load, count, before: before.get(id) ?? [] };
    return {
      standing: standingOf(controller, now),
      waiting: waiting.get(id) ?? [],
      waitingCount: Math.min(count, COUNTED),
      waitingMore: count > COUNTED,
      load: load ? describeLoad(load) : null,
      answers: byDevice.has(device),
      id,
      name,
      device,
      comparesFacility,
      wantedFormats,
      loadedFormats: formats.get(id) ?? [],
      wantedCards: wantedFormats.reduce((sum, format) => sum + (cards.get(format) ?? 0), 0),
      loadedCards,
      loadedAt: loadedAt?.toISOString() ?? null,
      readers: (ofController.get(id) ?? []).map((reader) => ({ id: reader.id, name: reader.name })),
    } satisfies Controller;
  });
}

/** Of some controllers of a site the load that was begun last: one statement for all. */
async function lastLoads(db: Queryable, siteId: string, ids: readonly string[]): Promise<Map<string, JobRow>> {
  if (ids.length === 0) return new Map();
  const of = and(eq(jobTable.siteId, siteId), eq(jobTable.kind, LOAD), inArray(jobTable.subject, [...ids]));
  const last = db
    .select({ subject: jobTable.subject, at: max(jobTable.startedAt).as('at') })
    .from(jobTable)
    .where(of)
    .groupBy(jobTable.subject)
    .as('last');
  const rows = await db
    .select({ job: jobTable })
    .from(jobTable)
    .innerJoin(last, and(eq(last.subject, jobTable.subject), eq(last.at, jobTable.startedAt)))
    .where(of);
  return new Map(rows.map(({ job }) => [job.subject, job]));
}

/** By controller, the digests that its device may have by what is known at this moment. */
async function digestsOf(db: Queryable, siteId: string): Promise<Map<string, string[]>> {
  const controllers = await db
    .select({ id: controllerTable.id, digest: controllerTable.loadedDigest })
    .from(controllerTable)
    .where(eq(controllerTable.siteId, siteId));
  const loads = await db
    .select()
    .from(jobTable)
    .where(and(eq(jobTable.siteId, siteId), eq(jobTable.kind, LOAD), eq(jobTable.state, 'running')));
  return new Map(
    controllers.map(({ id, digest }) => [
      id,
      [digest ?? [], loads.flatMap((load) => (load.subject === id ? memoOf(load).digest : []))].flat(),
    ]),
  );
}

interface Now {
  /** What its device has; undefined where that does not answer. */
  digest: string | undefined;
  load: JobRow | undefined;
  /** How many items wait. */
  count: number;
  /** The digests that it could have had before the device was asked. */
  before: readonly string[];
}

function standingOf(
  { loadedAt, loadedDigest }: ControllerRow,
  { digest, load, count, before }: Now,
): Controller['standing'] {
  if (loadedAt === null) return 'never loaded';
  const expected = [...before, loadedDigest, load?.state === 'running' ? memoOf(load).digest : null];
  if (digest !== undefined && loadedDigest !== null && !expected.includes(digest)) return 'differs';
  if (count > 0) return 'changes waiting';
  return digest === undefined ? 'no answer' : 'current';
}
