/**
 * What each controller should have of doors, groups, schedules and the calendar: enough to decide alone who passes, and no
 * more, so that what is about other doors does not reach it. A controller none of whose doors is by groups has nothing of it.
 */
import { CALENDAR, canonicalJson, doorKey, groupKey, isAboutPassing, scheduleKey } from '@rawbits/core/access';
import {
  type AccessGroup,
  type Calendar,
  type GuardedDoor,
  type Passing,
  passages,
  type Way,
} from '@rawbits/core/access/rights';
import type { Schedule } from '@rawbits/core/access/schedule';
import { and, asc, eq, inArray, isNull, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { type SitesRights, sitesRights, takeTurn } from '../rights/index.ts';
import { siteTable } from '../sites/index.ts';
import { hashOf } from './credential.ts';
import { controllerItemTable, controllerTable, controllerWantTable, doorTable, readerTable } from './tables.ts';

export type DoorRow = typeof doorTable.$inferSelect;

/** The doors of a site, each with its readers. */
export async function doorsOf(db: Queryable, siteId: string) {
  const doors = await db.select().from(doorTable).where(eq(doorTable.siteId, siteId)).orderBy(asc(doorTable.name));
  const readers = await db
    .select()
    .from(readerTable)
    .where(eq(readerTable.siteId, siteId))
    .orderBy(asc(readerTable.way), asc(readerTable.name));
  return doors.map((door) => ({
    ...door,
    readers: readers.filter(({ doorId }) => doorId === door.id).map((row) => ({ ...row, way: row.way as Way })),
  }));
}
type Doors = Awaited<ReturnType<typeof doorsOf>>;

/** The items of one controller, by their keys. */
function itemsFor(doors: Doors, { groups, schedules, holidays }: SitesRights, zone: string): Map<string, string> {
  const items = new Map<string, string>();
  const guarded = doors.filter(({ byGroups }) => byGroups);
  if (guarded.length === 0) return items;
  for (const { id, name, byGroups, readers } of guarded) {
    const door: GuardedDoor = {
      id,
      name,
      byGroups,
      readers: readers.map(({ device, way }) => ({ reader: device, way })),
    };
    items.set(doorKey(id), canonicalJson(door));
  }
  const here = new Set(guarded.map(({ id }) => id));
  const used = new Set<string>();
  for (const { id, name, rights } of groups) {
    const own = rights.flatMap(({ doors: theirs, schedule }) => {
      const some = theirs.filter(({ door }) => here.has(door));
      return some.length === 0 ? [] : [{ doors: some, schedule }];
    });
    if (own.length === 0) continue;
    for (const { schedule } of own) used.add(schedule);
    items.set(groupKey(id), canonicalJson({ id, name, rights: own } satisfies AccessGroup));
  }
  for (const { revision: _, ...schedule } of schedules)
    if (used.has(schedule.id)) items.set(scheduleKey(schedule.id), canonicalJson(schedule satisfies Schedule));
  items.set(CALENDAR, canonicalJson({ zone, holidays } satisfies Calendar));
  return items;
}

/**
 * Works out what the controllers of a site should have of it now, after anything of it has changed in this transaction.
 * Costs its doors, groups and schedules times its controllers, however many cards there are.
 */
export async function notePassing(tx: Queryable, siteId: string): Promise<void> {
  const [site] = await tx.select({ zone: siteTable.timeZone }).from(siteTable).where(eq(siteTable.id, siteId));
  const doors = await doorsOf(tx, siteId);
  const rights = await sitesRights(tx, siteId);
  const controllers = await tx
    .select({ id: controllerTable.id })
    .from(controllerTable)
    .where(eq(controllerTable.siteId, siteId));
  for (const { id } of controllers) {
    const own = doors.filter(({ controllerId }) => controllerId === id);
    await want(tx, id, itemsFor(own, rights, site?.zone ?? 'UTC'));
  }
}

/** As `notePassing`, for what changes outside of rights: takes its turn first. */
export async function rightsTouched(tx: Queryable, siteId: string): Promise<void> {
  await takeTurn(tx, siteId);
  await notePassing(tx, siteId);
}

async function want(tx: Queryable, controllerId: string, wanted: ReadonlyMap<string, string>): Promise<void> {
  const mine = eq(controllerWantTable.controllerId, controllerId);
  const before = new Map((await tx.select().from(controllerWantTable).where(mine)).map((row) => [row.item, row]));
  const gone = [...before.keys()].filter((item) => !wanted.has(item));
  if (gone.length > 0) {
    await tx.delete(controllerWantTable).where(and(mine, inArray(controllerWantTable.item, gone)));
    const items = and(eq(controllerItemTable.controllerId, controllerId), inArray(controllerItemTable.item, gone));
    await tx.update(controllerItemTable).set({ wanted: null }).where(items);
    await tx
      .delete(controllerItemTable)
      .where(and(items, isNull(controllerItemTable.loaded), isNull(controllerItemTable.sentBy)));
  }
  for (const [item, text] of wanted) {
    if (before.get(item)?.text === text) continue;
    const own = and(eq(controllerItemTable.controllerId, controllerId), eq(controllerItemTable.item, item));
    const [row] = await tx.select().from(controllerItemTable).where(own);
    // One more than any that the controller has, or is being sent.
    const revision = Math.max(before.get(item)?.revision ?? 0, row?.loaded ?? 0, row?.sent ?? 0) + 1;
    await tx
      .insert(controllerWantTable)
      .values({ controllerId, item, text, revision })
      .onDuplicateKeyUpdate({ set: { text, revision } });
    await tx
      .insert(controllerItemTable)
      .values({ controllerId, item, wanted: revision })
      .onDuplicateKeyUpdate({ set: { wanted: revision } });
    // What is again as the controller has it does not wait.
    await tx
      .update(controllerItemTable)
      .set({ loaded: sql`${controllerItemTable.wanted}` })
      .where(and(own, eq(controllerItemTable.hash, hashOf(item, text))));
  }
}

/** The texts of some items as a controller should have them, with their revisions. */
export async function wantedTexts(
  db: Queryable,
  controllerId: string,
  items: readonly string[],
): Promise<Map<string, { text: string; revision: number }>> {
  const about = items.filter(isAboutPassing);
  if (about.length === 0) return new Map();
  const rows = await db
    .select()
    .from(controllerWantTable)
    .where(and(eq(controllerWantTable.controllerId, controllerId), inArray(controllerWantTable.item, about)));
  return new Map(rows.map(({ item, text, revision }) => [item, { text, revision }]));
}

/** What would hold at a reader of a controller that had all that it should have. */
export async function passingAsWanted(
  db: Queryable,
  controllerId: string,
  reader: string,
  atMs: number,
): Promise<Passing> {
  const rows = await db.select().from(controllerWantTable).where(eq(controllerWantTable.controllerId, controllerId));
  const of = <T>(kind: string): T[] =>
    rows.flatMap(({ item, text }) => (item.startsWith(kind) ? [JSON.parse(text) as T] : []));
  const guarding = {
    doors: of<GuardedDoor>('door '),
    groups: of<AccessGroup>('group '),
    schedules: of<Schedule>('schedule '),
    calendar: of<Calendar>(CALENDAR)[0],
  };
  return passages(guarding)(reader, atMs);
}
