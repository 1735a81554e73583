/** Who may pass what at a site, as it is now, and as a change would have it: plain values, so that both can be held together. */
import type { AccessChange } from '@rawbits/api';
import type { Rights } from '@rawbits/core/access/rights';
import { ALWAYS, type Schedule } from '@rawbits/core/access/schedule';
import { eq } from 'drizzle-orm';
import { newId, type Queryable } from '../../platform/database/index.ts';
import { conflict, invalid, notFound } from '../../platform/problem/problem.ts';
import { doorsOf } from '../doors/index.ts';
import { assertionTable, type SitesRights, sitesRights } from '../rights/index.ts';
import { siteTable } from '../sites/index.ts';

export interface State extends SitesRights {
  zone: string;
  doors: Awaited<ReturnType<typeof doorsOf>>;
}

export async function stateOf(db: Queryable, siteId: string): Promise<State> {
  const [site] = await db.select({ zone: siteTable.timeZone }).from(siteTable).where(eq(siteTable.id, siteId));
  return {
    zone: site?.zone ?? 'UTC',
    doors: await doorsOf(db, siteId),
    ...(await sitesRights(db, siteId)),
  };
}

export const assertionsOf = (db: Queryable, siteId: string) =>
  db.select().from(assertionTable).where(eq(assertionTable.siteId, siteId)).orderBy(assertionTable.name);

const known = new WeakMap<State, Rights>();

/** The rights as they are worked with: `always` is there without anybody having made it. The same for one state, always. */
export function rightsIn(state: State): Rights {
  const rights = known.get(state) ?? rightsOf(state);
  known.set(state, rights);
  return rights;
}

const rightsOf = ({ groups, schedules, holidays, doors }: State): Rights => ({
  groups,
  schedules: [ALWAYS, ...schedules],
  holidays,
  open: new Set(doors.flatMap(({ id, byGroups }) => (byGroups ? [] : [id]))),
  ways: new Map(doors.map(({ id, readers }) => [id, readers.map(({ way }) => way)])),
});

type Kind<K extends AccessChange['kind']> = Extract<AccessChange, { kind: K }>;

function checkRevision(now: number, seen: number | undefined): void {
  if (seen !== undefined && seen !== now)
    throw conflict('changed-meanwhile', 'Somebody changed this meanwhile.', 'Look at it as it is now.');
}

function checkName(others: readonly { id: string; name: string }[], id: string | null, name: string): void {
  const same = (text: string) => text.trim().toLocaleLowerCase('en');
  if (others.some((other) => other.id !== id && same(other.name) === same(name)))
    throw conflict('name-taken', `There is a "${name}" already.`, 'Take another name.', 'name');
}

/** The state after a change, and the id of what was made or changed. Throws where it cannot be made. */
export function changed(state: State, change: AccessChange): { state: State; id: string | null } {
  switch (change.kind) {
    case 'schedule':
      return withSchedule(state, change);
    case 'remove schedule':
      return withoutSchedule(state, change.id);
    case 'holidays':
      checkRevision(state.revision, change.revision);
      checkDays(change.holidays);
      return { state: { ...state, holidays: change.holidays, revision: state.revision + 1 }, id: null };
    case 'group':
      return withGroup(state, change);
    case 'remove group':
      if (!state.groups.some(({ id }) => id === change.id)) throw notFound('access group');
      return { state: { ...state, groups: state.groups.filter(({ id }) => id !== change.id) }, id: change.id };
    case 'door':
      return withDoor(state, change);
    default:
      checkGroups(state, change.kind === 'card' ? change.groups : [...change.add, ...change.remove]);
      return { state, id: null };
  }
}

export function checkGroups({ groups }: State, named: readonly string[]): void {
  if (named.some((id) => !groups.some((group) => group.id === id)))
    throw invalid('groups', 'There is no such access group at this site.', 'Choose one of those listed.');
}

function checkDays(holidays: State['holidays']): void {
  const days = new Set<string>();
  for (const { date, yearly } of holidays) {
    const key = yearly ? `every ${date.slice(5)}` : date;
    if (days.has(key)) throw invalid('holidays', `${date} is in the list twice.`, 'Take one of them out.');
    days.add(key);
  }
}

function withSchedule(state: State, { id, name, periods, onHolidays, revision }: Kind<'schedule'>) {
  const before = state.schedules.find((schedule) => schedule.id === id);
  if (id !== null && !before) throw notFound('schedule');
  if (before) checkRevision(before.revision, revision);
  checkName([ALWAYS, ...state.schedules], id, name);
  const schedule = { id: id ?? newId(), name, periods, onHolidays, revision: (before?.revision ?? 0) + 1 };
  const schedules = [...state.schedules.filter((other) => other.id !== id), schedule];
  return { state: { ...state, schedules }, id: schedule.id };
}

function withoutSchedule(state: State, id: string) {
  if (!state.schedules.some((schedule) => schedule.id === id)) throw notFound('schedule');
  const users = state.groups.filter(({ rights }) => rights.some(({ schedule }) => schedule === id));
  if (users.length > 0)
    throw conflict(
      'in-use',
      `${users.map(({ name }) => name).join(', ')} ${users.length === 1 ? 'goes' : 'go'} by this schedule.`,
      'Give them another schedule first.',
    );
  return { state: { ...state, schedules: state.schedules.filter((schedule) => schedule.id !== id) }, id };
}

function withGroup(state: State, { id, name, rights, revision }: Kind<'group'>) {
  const before = state.groups.find((group) => group.id === id);
  if (id !== null && !before) throw notFound('access group');
  if (before) checkRevision(before.revision, revision);
  checkName(state.groups, id, name);
  const known = new Set([ALWAYS.id, ...state.schedules.map((schedule: Schedule) => schedule.id)]);
  for (const { doors, schedule } of rights) {
    if (!known.has(schedule)) throw invalid('rights', 'There is no such schedule at this site.');
    if (doors.some(({ door }) => !state.doors.some((other) => other.id === door)))
      throw invalid('rights', 'There is no such door at this site.');
  }
  const group = { id: id ?? newId(), name, rights, revision: (before?.revision ?? 0) + 1 };
  return { state: { ...state, groups: [...state.groups.filter((other) => other.id !== id), group] }, id: group.id };
}

/** Readers that a door takes over leave theirs; one that it gives up has a door of its own; a door without any is no more. */
function withDoor(state: State, { id, name, byGroups, readers, revision }: Kind<'door'>) {
  const before = state.doors.find((door) => door.id === id);
  if (!before) throw notFound('door');
  checkRevision(before.revision, revision);
  const all = state.doors.flatMap((door) => door.readers);
  const own = readers.map(({ id: reader, way }) => {
    const row = all.find((other) => other.id === reader);
    if (!row) throw invalid('readers', 'There is no such reader at a door of this site.');
    if (row.controllerId !== before.controllerId)
      throw invalid(
        'readers',
        `${row.name} is at another controller.`,
        'Both readers of a door are at one controller.',
      );
    return { ...row, doorId: id, way };
  });
  if (new Set(own.map(({ way }) => way)).size < own.length || new Set(own.map((r) => r.id)).size < own.length)
    throw invalid('readers', 'A door has one reader for each way.', 'Say which is for the way in and which out.');
  const given = before.readers.filter((reader) => !own.some((other) => other.id === reader.id));
  const doors = [
    ...state.doors.flatMap((door) => {
      if (door.id === id) return [{ ...door, name, byGroups, readers: own, revision: door.revision + 1 }];
      const left = door.readers.filter((reader) => !own.some((other) => other.id === reader.id));
      if (left.length === door.readers.length) return [door];
      return left.length === 0 && door.readers.length > 0 ? [] : [{ ...door, readers: left }];
    }),
    ...given.map((reader) => {
      const door = newId();
      return { ...before, id: door, name: reader.name, readers: [{ ...reader, doorId: door }], revision: 1 };
    }),
  ];
  const gone = state.doors.filter((door) => !doors.some((other) => other.id === door.id));
  const naming = state.groups.filter(({ rights }) =>
    rights.some((right) => right.doors.some(({ door }) => gone.some((other) => other.id === door))),
  );
  if (naming.length > 0)
    throw conflict(
      'in-use',
      `${gone.map((door) => door.name).join(', ')} would be no door any more, and ${naming.map((g) => g.name).join(', ')} ${naming.length === 1 ? 'has' : 'have'} it.`,
      'Take it out of the group first.',
    );
  return { state: { ...state, doors }, id };
}
