/** What goes when a controller or a reader is removed, and what of it stays outside of Raw Bits. */
import { createHash } from 'node:crypto';
import type { Removal } from '@rawbits/api';
import { canonicalJson } from '@rawbits/core/access';
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { notFound } from '../../platform/problem/problem.ts';
import { controllerTable, doorTable, readerTable } from '../doors/index.ts';
import { readerPlanTable } from '../plans/index.ts';
import { assertionTable, type SitesRights, sitesRights } from '../rights/index.ts';

type ReaderRow = typeof readerTable.$inferSelect;
type ControllerRow = typeof controllerTable.$inferSelect;
type DoorRow = typeof doorTable.$inferSelect;
type AssertionRow = typeof assertionTable.$inferSelect;

export type Leaver =
  | { kind: 'controller'; controller: ControllerRow }
  | { kind: 'reader'; reader: ReaderRow; controller: ControllerRow | undefined };

export interface Leaving {
  leaver: Leaver;
  readers: ReaderRow[];
  doors: DoorRow[];
  /** As they are without the doors. */
  groups: SitesRights['groups'];
  /** With the doors that each still names; none where it is removed. */
  assertions: { row: AssertionRow; doors: string[] }[];
  removal: Removal;
}

export async function controllerLeaving(db: Queryable, site: string, id: string): Promise<Leaving> {
  const own = and(eq(controllerTable.id, id), eq(controllerTable.siteId, site));
  const [controller] = await db.select().from(controllerTable).where(own);
  if (!controller) throw notFound('controller');
  const readers = await db
    .select()
    .from(readerTable)
    .where(and(eq(readerTable.siteId, site), eq(readerTable.controllerId, id)))
    .orderBy(asc(readerTable.name));
  const doors = await db
    .select()
    .from(doorTable)
    .where(and(eq(doorTable.siteId, site), eq(doorTable.controllerId, id)))
    .orderBy(asc(doorTable.name));
  return describe(db, site, { kind: 'controller', controller }, readers, doors);
}

export async function readerLeaving(db: Queryable, site: string, id: string): Promise<Leaving> {
  const own = and(eq(readerTable.id, id), eq(readerTable.siteId, site));
  const [reader] = await db.select().from(readerTable).where(own);
  if (!reader) throw notFound('reader');
  const [controller] =
    reader.controllerId === null
      ? []
      : await db.select().from(controllerTable).where(eq(controllerTable.id, reader.controllerId));
  const isLast = reader.doorId !== null && (await db.$count(readerTable, eq(readerTable.doorId, reader.doorId))) === 1;
  const doors = isLast ? await db.select().from(doorTable).where(eq(doorTable.id, reader.doorId!)) : [];
  return describe(db, site, { kind: 'reader', reader, controller }, [reader], doors);
}

async function describe(
  db: Queryable,
  site: string,
  leaver: Leaver,
  readers: ReaderRow[],
  doors: DoorRow[],
): Promise<Leaving> {
  const gone = new Set(doors.map(({ id }) => id));
  const isGone = (id: string) => gone.has(id);
  const groups = (await sitesRights(db, site)).groups
    .filter(({ rights }) => rights.some((right) => right.doors.some(({ door }) => isGone(door))))
    .map((group) => ({
      ...group,
      rights: group.rights
        .map((right) => ({ ...right, doors: right.doors.filter(({ door }) => !isGone(door)) }))
        .filter((right) => right.doors.length > 0),
    }));
  const rows = await db
    .select()
    .from(assertionTable)
    .where(eq(assertionTable.siteId, site))
    .orderBy(assertionTable.name);
  const assertions = rows.flatMap((row) => {
    const named = (JSON.parse(row.definition) as { doors: string[] }).doors;
    const left = named.filter((id) => !isGone(id));
    return left.length === named.length ? [] : [{ row, doors: left }];
  });
  const shown = {
    name: leaver.kind === 'controller' ? leaver.controller.name : leaver.reader.name,
    readers: leaver.kind === 'controller' ? readers.map(({ id, name }) => ({ id, name })) : [],
    doors: doors.map(({ id, name }) => ({ id, name })),
    groups: groups.map(({ id, name }) => ({ id, name })),
    assertions: assertions.map(({ row, doors: left }) => ({ id: row.id, name: row.name, removed: left.length === 0 })),
    stays: await staying(db, leaver, readers),
  };
  const digest = createHash('sha256').update(canonicalJson(shown)).digest('hex');
  return { leaver, readers, doors, groups, assertions, removal: { ...shown, digest } };
}

/** No device is told of its removal: it goes on with what it has. */
async function staying(db: Queryable, leaver: Leaver, readers: ReaderRow[]): Promise<string[]> {
  const stays: string[] = [];
  if (leaver.kind === 'controller') {
    const { name, loadedDigest, loadedCards } = leaver.controller;
    const cards = `${loadedCards.toLocaleString('en')} ${loadedCards === 1 ? 'card' : 'cards'}`;
    const had = loadedDigest === null ? 'Raw Bits has never loaded' : `Raw Bits last loaded ${cards} into`;
    stays.push(`${had} ${name}. It decides by what it has until it is disconnected.`);
  }
  // A controller lets every active card pass at a reader of which it was loaded with no door (`passages`).
  if (leaver.kind === 'reader' && leaver.controller)
    stays.push(
      `Disconnect ${leaver.reader.name} before you load ${leaver.controller.name}: a controller that has no door for a reader opens it for every active card.`,
    );
  const ids = readers.map(({ id }) => id);
  const plans =
    ids.length === 0 ? [] : await db.select().from(readerPlanTable).where(inArray(readerPlanTable.readerId, ids));
  for (const { readerId, keys } of plans) {
    const names = (keys as { name: string; version: number }[]).map(
      ({ name, version }) => `${name}, version ${version}`,
    );
    if (names.length > 0)
      stays.push(`${readers.find(({ id }) => id === readerId)!.name} keeps its keys: ${names.join('; ')}.`);
  }
  return stays;
}
