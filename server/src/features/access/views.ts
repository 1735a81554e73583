/** Who may pass what, looked at from a person and from a door: as a week, and at an instant. */
import type { Passage } from '@rawbits/api';
import { type AccessGroup, openedBy, scheduleInWords, WAYS, type Way, weekOf } from '@rawbits/core/access/rights';
import { ALWAYS, dayKinds, dayOf, holdsAt, type Schedule, wallClock, weekdayOf } from '@rawbits/core/access/schedule';
import { and, asc, count, eq, inArray, isNotNull } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { invalid, notFound } from '../../platform/problem/problem.ts';
import { afterCursor, cardholderTable, cardTable, cursorAt } from '../cards/index.ts';
import { groupSetTable, groupsIn } from '../rights/index.ts';
import { today } from './review.ts';
import { type State, stateOf } from './state.ts';

interface Asked {
  from?: string | undefined;
  at?: string | undefined;
}

/** The first day to draw, and what the clocks show at the instant asked for. */
function askedFor({ zone }: State, { from, at }: Asked) {
  const day = from === undefined ? undefined : firstDay(from);
  const now = wallClock(zone)(at === undefined ? Date.now() : Date.parse(at));
  const monday = today(zone) - (weekdayOf(today(zone)) - 1);
  return { first: day ?? monday, now };
}

function firstDay(from: string): number {
  try {
    return dayOf(from);
  } catch {
    throw invalid('from', `"${from}" is no day.`, 'Write it as 2026-12-25.');
  }
}

function drawing(state: State, asked: Asked) {
  const { first, now } = askedFor(state, asked);
  const byId = new Map([ALWAYS, ...state.schedules].map((schedule) => [schedule.id, schedule]));
  const kindOf = dayKinds(state.holidays);
  return (through: readonly { group: AccessGroup; schedule: string }[], open = false) => {
    const schedules = open ? [ALWAYS] : through.flatMap(({ schedule }) => byId.get(schedule) ?? []);
    return {
      through: through.map(({ group, schedule }) => ({
        group: group.name,
        schedule: byId.get(schedule)?.name ?? schedule,
        when: scheduleInWords(byId.get(schedule) ?? { periods: [], onHolidays: [] }),
      })),
      week: weekOf(schedules as Schedule[], state, first),
      now: schedules.some((schedule) => holdsAt(schedule, kindOf, now)),
    };
  };
}

export async function accessOfHolder(db: Queryable, siteId: string, holderId: string, asked: Asked) {
  const own = and(eq(cardholderTable.id, holderId), eq(cardholderTable.siteId, siteId));
  const [holder] = await db.select().from(cardholderTable).where(own);
  if (!holder) throw notFound('cardholder');
  const state = await stateOf(db, siteId);
  const draw = drawing(state, asked);
  const cards = await db
    .select()
    .from(cardTable)
    .where(and(eq(cardTable.holderId, holderId), eq(cardTable.state, 'active'), isNotNull(cardTable.groupSetId)));
  const sets = await groupsIn(db, [holder.groupSetId, ...cards.map((card) => card.groupSetId)]);
  const inSet = (set: string | null, on = ''): AccessGroup[] =>
    state.groups.flatMap((group) =>
      set !== null && sets.get(set)?.includes(group.id) ? [{ ...group, name: `${group.name}${on}` }] : [],
    );
  const groups = inSet(holder.groupSetId);
  // What hangs on a card passes with that card alone.
  const all = [
    ...groups,
    ...cards.flatMap((card) =>
      inSet(card.groupSetId, `, on card ${card.facility ? `${card.facility}/` : ''}${card.number}`),
    ),
  ];
  const passages = state.doors.flatMap(({ id, name, byGroups, readers }) =>
    WAYS.flatMap((way): Passage[] => {
      if (!readers.some((reader) => reader.way === way)) return [];
      const through = openedBy(all, id, way);
      if (byGroups && through.length === 0) return [];
      return [{ door: { id, name }, way, open: !byGroups, ...draw(byGroups ? through : [], !byGroups) }];
    }),
  );
  return { groups: groups.map(({ id }) => id), passages };
}

export async function accessOfDoor(db: Queryable, siteId: string, doorId: string, way: Way, asked: Asked) {
  const state = await stateOf(db, siteId);
  const door = state.doors.find(({ id }) => id === doorId);
  if (!door) throw notFound('door');
  const draw = drawing(state, asked);
  const members = await membersOf(db, siteId);
  const groups = state.groups.flatMap((group) => {
    const through = openedBy([group], doorId, way);
    return through.length === 0
      ? []
      : [{ id: group.id, name: group.name, members: members.get(group.id) ?? 0, ...draw(through) }];
  });
  return { open: !door.byGroups, groups };
}

/** The sets that a group is in, by groups. */
async function setsOf(db: Queryable, siteId: string): Promise<Map<string, string[]>> {
  const sets = new Map<string, string[]>();
  for (const { id, groups } of await db.select().from(groupSetTable).where(eq(groupSetTable.siteId, siteId)))
    for (const group of groups as string[]) sets.set(group, [...(sets.get(group) ?? []), id]);
  return sets;
}

/** How many people are in each group; costs counting along an index of the cardholders. */
export async function membersOf(db: Queryable, siteId: string): Promise<Map<string, number>> {
  const rows = await db
    .select({ set: cardholderTable.groupSetId, people: count() })
    .from(cardholderTable)
    .where(eq(cardholderTable.siteId, siteId))
    .groupBy(cardholderTable.groupSetId);
  const people = new Map(rows.map((row) => [row.set, row.people]));
  return new Map(
    [...(await setsOf(db, siteId))].map(([group, sets]) => [
      group,
      sets.reduce((sum, set) => sum + (people.get(set) ?? 0), 0),
    ]),
  );
}

/** A page of the people in a group, by name; costs the sets that the group is in, each a page. */
export async function membersPage(
  db: Queryable,
  siteId: string,
  groupId: string,
  { after, limit }: { after?: string | undefined; limit: number },
) {
  const sets = (await setsOf(db, siteId)).get(groupId) ?? [];
  const beyond = after === undefined ? undefined : afterCursor(after);
  const pages = [];
  for (const set of sets)
    pages.push(
      await db
        .select({
          id: cardholderTable.id,
          name: cardholderTable.name,
          department: cardholderTable.department,
          set: cardholderTable.groupSetId,
        })
        .from(cardholderTable)
        .where(and(eq(cardholderTable.siteId, siteId), inArray(cardholderTable.groupSetId, [set]), beyond))
        .orderBy(asc(cardholderTable.name), asc(cardholderTable.id))
        .limit(limit + 1),
    );
  // Each page is in the database's order of names: they are merged by asking it once more.
  const ids = pages.flat().map((row) => row.id);
  const rows =
    ids.length === 0
      ? []
      : await db
          .select({
            id: cardholderTable.id,
            name: cardholderTable.name,
            department: cardholderTable.department,
            set: cardholderTable.groupSetId,
          })
          .from(cardholderTable)
          .where(inArray(cardholderTable.id, ids))
          .orderBy(asc(cardholderTable.name), asc(cardholderTable.id))
          .limit(limit + 1);
  const page = rows.slice(0, limit);
  const groups = await groupsIn(
    db,
    page.map(({ set }) => set),
  );
  const last = page.at(-1);
  return {
    members: page.map(({ set, ...row }) => ({ ...row, groups: groups.get(set ?? '') ?? [] })),
    next: rows.length > limit && last ? cursorAt(last) : null,
  };
}
