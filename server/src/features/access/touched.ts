/** Into which controllers a change of who may pass would have to be loaded. */
import { canonicalJson } from '@rawbits/core/access';
import { and, eq, inArray } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { controllerTable } from '../doors/index.ts';
import type { State } from './state.ts';

/** The controllers that something about would have to be loaded into. */
export async function controllersOf(
  db: Queryable,
  siteId: string,
  before: State,
  after: State,
  isMove: boolean,
): Promise<string[]> {
  const touched = isMove
    ? new Set([...guardedAt(before).values(), ...guardedAt(after).values()])
    : touchedAt(before, after);
  if (touched.size === 0) return [];
  const rows = await db
    .select({ name: controllerTable.name })
    .from(controllerTable)
    .where(and(eq(controllerTable.siteId, siteId), inArray(controllerTable.id, [...touched])))
    .orderBy(controllerTable.name);
  return rows.map(({ name }) => name);
}

/** The doors that groups guard, each with its controller. */
const guardedAt = ({ doors }: State): Map<string, string> =>
  new Map(doors.flatMap(({ id, byGroups, controllerId }) => (byGroups ? [[id, controllerId] as const] : [])));

/** Those of some things that are not in both of two lists, or not the same in both, as they are in each. */
function changedOf<T extends { id: string }>(
  before: readonly T[],
  after: readonly T[],
  textOf: (one: T) => string,
): [T[], T[]] {
  const [was, is] = [before, after].map((all) => new Map(all.map((one) => [one.id, one]))) as [
    Map<string, T>,
    Map<string, T>,
  ];
  const differs = (one: T, other: T | undefined) => one !== other && (!other || textOf(one) !== textOf(other));
  return [before.filter((one) => differs(one, is.get(one.id))), after.filter((one) => differs(one, was.get(one.id)))];
}

/**
 * The controllers into which something about passing would have to be loaded: of their doors, of the rights to these, of the
 * schedules of the rights, or of the holidays. Costs what changed; where a schedule did, all rights once.
 */
function touchedAt(before: State, after: State): Set<string> {
  const [was, is] = [guardedAt(before), guardedAt(after)];
  const touched = new Set<string>();
  const isEvery = canonicalJson(before.holidays) !== canonicalJson(after.holidays);
  if (isEvery) return new Set([...was.values(), ...is.values()]);
  for (const some of changedOf(before.doors, after.doors, (door) => canonicalJson(door)))
    for (const { byGroups, controllerId } of some) if (byGroups) touched.add(controllerId);
  const byText = ({ name, periods, onHolidays }: State['schedules'][number]) =>
    canonicalJson([name, periods, onHolidays]);
  const [gone, come] = changedOf(before.schedules, after.schedules, byText);
  const schedules = new Set([...gone, ...come].map(({ id }) => id));
  for (const [state, at] of [
    [before, was],
    [after, is],
  ] as const)
    if (schedules.size > 0)
      for (const { rights } of state.groups)
        for (const { doors, schedule } of rights)
          if (schedules.has(schedule)) for (const { door } of doors) if (at.has(door)) touched.add(at.get(door)!);
  const [left, made] = changedOf(before.groups, after.groups, ({ name, rights }) => canonicalJson([name, rights]));
  const [had, has] = [rightsAt(left, was), rightsAt(made, is)];
  for (const key of new Set([...had.keys(), ...has.keys()]))
    if (had.get(key) !== has.get(key)) touched.add(key.slice(key.indexOf(' ') + 1));
  return touched;
}

/** By group and controller, what of the group is loaded there. */
function rightsAt(groups: State['groups'], guarded: ReadonlyMap<string, string>): Map<string, string> {
  const found = new Map<string, string>();
  for (const { id, name, rights } of groups)
    for (const { doors, schedule } of rights)
      for (const right of doors) {
        const key = `${id} ${guarded.get(right.door)}`;
        if (guarded.has(right.door)) found.set(key, `${found.get(key) ?? name} ${schedule} ${canonicalJson(right)}`);
      }
  return found;
}
