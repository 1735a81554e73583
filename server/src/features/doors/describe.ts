/** A controller as the web shows it: wanted against loaded, and how that stands. */

import type { Controller, Load } from '@rawbits/api';
import { CALENDAR, FACILITY_COMPARED, isAboutPassing } from '@rawbits/core/access';
import { and, asc, desc, eq, inArray, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { isSilent, type JobRow, jobTable } from '../../platform/jobs/index.ts';
import { cardholderTable, cardsForDoors, cardTable } from '../cards/index.ts';
import { formatVersionTable } from '../library/index.ts';
import { acceptedBy } from './accepted.ts';
import { LOAD, memoOf } from './carrying.ts';
import { loadedFormats, waitingFor } from './items.ts';
import { wantedTexts } from './passing.ts';
import { type ControllerRow, controllerItemTable, controllerTable, readerTable } from './tables.ts';

const SHOWN = 40;
/** What waits is counted so far; a controller for which more waits is told to have more. */
const COUNTED = 10_000;

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

/** As `waitingCount`, but counts only so far that the cost has an end. */
async function waitingUpTo(db: Queryable, controllerId: string): Promise<number> {
  const some = db
    .select({ item: controllerItemTable.item })
    .from(controllerItemTable)
    .where(waitingFor(controllerId))
    .limit(COUNTED + 1)
    .as('some');
  const [row] = await db.select({ items: sql<number>`count(*)`.mapWith(Number) }).from(some);
  return row?.items ?? 0;
}

type Waiting = Controller['waiting'];

async function waitingOf(db: Queryable, controllerId: string): Promise<Waiting> {
  const rows = await db
    .select({ item: controllerItemTable.item, wanted: controllerItemTable.wanted, loaded: controllerItemTable.loaded })
    .from(controllerItemTable)
    .where(waitingFor(controllerId))
    .orderBy(desc(sql`${controllerItemTable.item} like 'format %'`), asc(controllerItemTable.item))
    .limit(SHOWN);
  const named = new Map([
    [FACILITY_COMPARED, 'whether the facility code is compared'],
    ...(await cardNames(db, rows)),
    ...(await formatNames(db, rows)),
    ...(await passingNames(db, controllerId, rows)),
  ]);
  const kindOf = ({ wanted, loaded }: (typeof rows)[number]): Waiting[number]['change'] =>
    loaded === null ? 'add' : wanted === null ? 'remove' : 'change';
  return rows.map((row) => ({ change: kindOf(row), what: named.get(row.item) ?? row.item }));
}

async function cardNames(db: Queryable, rows: readonly { item: string }[]): Promise<[string, string][]> {
  const ids = rows.flatMap(({ item }) => (item.startsWith('card ') ? [item.slice(5)] : []));
  if (ids.length === 0) return [];
  const cards = await db
    .select({ card: cardTable, holder: cardholderTable.name })
    .from(cardTable)
    .leftJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
    .where(inArray(cardTable.id, ids));
  return cards.map(({ card, holder }) => [
    `card ${card.id}`,
    `card ${card.facility ? `${card.facility}/` : ''}${card.number}${holder ? `, ${holder}` : ''}, ${card.state}`,
  ]);
}

async function formatNames(db: Queryable, rows: readonly { item: string }[]): Promise<[string, string][]> {
  const ids = rows.flatMap(({ item }) => (item.startsWith('format ') ? [item.slice(7)] : []));
  if (ids.length === 0) return [];
  const versions = await db
    .select({ id: formatVersionTable.formatId, definition: formatVersionTable.definition })
    .from(formatVersionTable)
    .where(inArray(formatVersionTable.formatId, ids))
    .orderBy(asc(formatVersionTable.version));
  return versions.map(({ id, definition }) => [`format ${id}`, `format ${(definition as { name: string }).name}`]);
}

const SORTS = { door: 'door', group: 'access group', schedule: 'schedule' } as const;

async function passingNames(
  db: Queryable,
  controllerId: string,
  rows: readonly { item: string }[],
): Promise<[string, string][]> {
  const items = rows.flatMap(({ item }) => (isAboutPassing(item) ? [item] : []));
  if (items.length === 0) return [];
  const wanted = await wantedTexts(db, controllerId, items);
  const loaded = await db
    .select({ item: controllerItemTable.item, content: controllerItemTable.content })
    .from(controllerItemTable)
    .where(and(eq(controllerItemTable.controllerId, controllerId), inArray(controllerItemTable.item, items)));
  return loaded.map(({ item, content }) => {
    if (item === CALENDAR) return [item, 'holidays and time zone'];
    const text = wanted.get(item)?.text ?? content;
    const { name } = text ? (JSON.parse(text) as { name: string }) : { name: item };
    return [item, `${SORTS[item.split(' ')[0] as keyof typeof SORTS]} ${name}`];
  });
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
  return Promise.all(
    controllers.map(async (controller) => {
      const wantedFormats = accepted.get(controller.id) ?? [];
      return {
        ...(await standingOf(db, controller, devices, before.get(controller.id) ?? [])),
        id: controller.id,
        name: controller.name,
        device: controller.device,
        comparesFacility: controller.comparesFacility,
        wantedFormats,
        loadedFormats: await loadedFormats(db, controller.id),
        wantedCards: wantedFormats.reduce((sum, id) => sum + (cards.get(id) ?? 0), 0),
        loadedCards: controller.loadedCards,
        loadedAt: controller.loadedAt?.toISOString() ?? null,
        readers: readers.filter((r) => r.controllerId === controller.id).map(({ id, name }) => ({ id, name })),
      } satisfies Controller;
    }),
  );
}

const lastLoad = (db: Queryable, controllerId: string) =>
  db
    .select()
    .from(jobTable)
    .where(and(eq(jobTable.kind, LOAD), eq(jobTable.subject, controllerId)))
    .orderBy(desc(jobTable.startedAt))
    .limit(1);

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

async function standingOf(
  db: Queryable,
  controller: ControllerRow,
  devices: readonly { id: string; digest: string }[] | undefined,
  before: readonly string[],
): Promise<Pick<Controller, 'standing' | 'waiting' | 'waitingCount' | 'waitingMore' | 'load' | 'answers'>> {
  const [load] = await lastLoad(db, controller.id);
  const device = devices?.find((d) => d.id === controller.device);
  const waitingCount = await waitingUpTo(db, controller.id);
  const now = [controller.loadedDigest, load?.state === 'running' ? memoOf(load).digest : null];
  const expected = [...before, ...now];
  const differs = device !== undefined && controller.loadedDigest !== null && !expected.includes(device.digest);
  const isCurrent = device === undefined ? 'no answer' : 'current';
  const loaded = differs ? 'differs' : waitingCount > 0 ? 'changes waiting' : isCurrent;
  return {
    standing: controller.loadedAt === null ? 'never loaded' : loaded,
    waiting: await waitingOf(db, controller.id),
    waitingCount: Math.min(waitingCount, COUNTED),
    waitingMore: waitingCount > COUNTED,
    load: load ? describeLoad(load) : null,
    answers: device !== undefined,
  };
}
