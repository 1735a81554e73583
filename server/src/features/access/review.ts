/** What a change of rights does, before it is saved: who gains and loses which doors and when, and which assertions break. */
import { createHash } from 'node:crypto';
import type { AccessChange, AccessReview } from '@rawbits/api';
import { canonicalJson } from '@rawbits/core/access';
import {
  type AccessAssertion,
  type Broken,
  type Change,
  check,
  differences,
  firstOf,
  type Stretch,
  stretchesInWords,
} from '@rawbits/core/access/rights';
import { ALWAYS, wallClock } from '@rawbits/core/access/schedule';
import { and, eq, inArray } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { groupedBy } from '../../platform/lists/lists.ts';
import { invalid, notFound } from '../../platform/problem/problem.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { controllerTable } from '../doors/index.ts';
import { groupsIn } from '../rights/index.ts';
import { type People, peopleNamed, peopleOf } from './people.ts';
import { assertionsOf, changed, rightsIn, type State } from './state.ts';

const NAMES = 5;
const MOST_BROKEN = 5;

/** Some people with their groups before a change and after it. */
interface Subject extends Omit<People, 'groups'> {
  was: readonly string[];
  is: readonly string[];
}

export const today = (zone: string): number => wallClock(zone)(Date.now()).day;

/** Whom a change is about: all people of the site, or those whose groups it changes. */
async function subjectsOf(db: Queryable, siteId: string, change: AccessChange): Promise<Subject[]> {
  if (change.kind === 'members') return movers(db, siteId, change);
  if (change.kind === 'card') return ofCard(db, siteId, change);
  return (await peopleOf(db, siteId)).map(({ groups, ...rest }) => ({ ...rest, was: groups, is: groups }));
}

async function movers(
  db: Queryable,
  siteId: string,
  { holders, add, remove }: Extract<AccessChange, { kind: 'members' }>,
): Promise<Subject[]> {
  const people = await peopleNamed(db, siteId, holders);
  if (people.length < new Set(holders).size) throw invalid('holders', 'Not all of them are cardholders of this site.');
  return together(people.map(({ name, groups }) => ({ name, was: groups, is: moved(groups, add, remove) })));
}

/** Somebody who comes into groups or leaves them; one who was not there before was in none. */
export interface Move {
  name: string;
  was: readonly string[];
  is: readonly string[];
}

/** Those who move alike count as one. */
function together(moves: readonly Move[]): Subject[] {
  const alike = groupedBy(moves, ({ was, is }) => `${was.join()} ${is.join()}`);
  return [...alike.values()].map((some) => ({
    was: some[0]!.was,
    is: some[0]!.is,
    count: async () => some.length,
    names: async (_db, most) => some.slice(0, most).map(({ name }) => name),
  }));
}

/** Groups after some were added and some taken out. */
export const moved = (groups: readonly string[], add: readonly string[], remove: readonly string[]): string[] =>
  [...new Set([...groups.filter((id) => !remove.includes(id)), ...add])].sort();

async function ofCard(
  db: Queryable,
  siteId: string,
  { id, groups }: Extract<AccessChange, { kind: 'card' }>,
): Promise<Subject[]> {
  const [row] = await db
    .select({ own: cardTable.groupSetId, theirs: cardholderTable.groupSetId, name: cardholderTable.name })
    .from(cardTable)
    .leftJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
    .where(and(eq(cardTable.id, id), eq(cardTable.siteId, siteId)));
  if (!row) throw notFound('card');
  if (row.name === null)
    throw invalid('id', 'Nobody holds this card, so no groups can hang on it.', 'Issue it to somebody first.');
  const sets = await groupsIn(db, [row.own, row.theirs]);
  const of = (set: string | null) => (set === null ? [] : (sets.get(set) ?? []));
  const name = row.name;
  return [
    {
      was: [...of(row.own), ...of(row.theirs)],
      is: [...groups, ...of(row.theirs)],
      count: async () => 1,
      names: async () => [name],
    },
  ];
}

export interface Reviewed {
  review: AccessReview;
  after: State;
  /** What was made or changed. */
  id: string | null;
}

/** Costs the sets of groups that people are in, times the doors; and counting the people. */
export async function reviewed(db: Queryable, siteId: string, before: State, change: AccessChange): Promise<Reviewed> {
  const { state: after, id } = changed(before, change);
  const subjects = await subjectsOf(db, siteId, change);
  const isMove = change.kind === 'members' || change.kind === 'card';
  const review = await effectOn(db, siteId, { before, after, isMove, what: change }, subjects);
  return { review, after, id };
}

/** What it does that people come into groups and leave them; costs as `reviewed`. */
export const movesReviewed = (
  db: Queryable,
  siteId: string,
  state: State,
  moves: readonly Move[],
): Promise<AccessReview> =>
  effectOn(db, siteId, { before: state, after: state, isMove: moves.length > 0, what: moves }, together(moves));

interface Effect {
  before: State;
  after: State;
  /** People come and go; doors, groups and schedules stay. */
  isMove: boolean;
  /** What is seen stands for this, too. */
  what: unknown;
}

async function effectOn(
  db: Queryable,
  siteId: string,
  { before, after, isMove, what }: Effect,
  subjects: readonly Subject[],
): Promise<AccessReview> {
  const [was, is] = [rightsIn(before), rightsIn(after)];
  const doors = [...new Set([...before.doors, ...after.doors].map((door) => door.id))];
  const changes = differences(was, is, doors, subjects, today(before.zone));
  const gains = await inWords(db, before, after, subjects, changes, ({ gains: some }) => some);
  const losses = await inWords(db, before, after, subjects, changes, ({ loses }) => loses);
  const breaks = await broken(db, siteId, before, after, subjects);
  const controllers = await controllersOf(db, siteId, before, after, isMove);
  const text = canonicalJson({ change: what, gains, losses, breaks });
  const seen = createHash('sha256').update(text).digest('hex').slice(0, 40);
  return { gains, losses, breaks, controllers, seen };
}

async function inWords(
  db: Queryable,
  before: State,
  after: State,
  subjects: readonly Subject[],
  changes: readonly Change[],
  of: (change: Change) => readonly Stretch[],
): Promise<AccessReview['gains']> {
  const doorName = new Map([...before.doors, ...after.doors].map(({ id, name }) => [id, name]));
  const groupName = new Map([...before.groups, ...after.groups].map(({ id, name }) => [id, name]));
  const rows = new Map<string, { row: AccessReview['gains'][number]; subjects: Set<Subject> }>();
  for (const change of changes) {
    const stretches = of(change);
    if (stretches.length === 0) continue;
    const subject = subjects[change.subject]!;
    const [when, first] = [stretchesInWords(stretches), firstOf(stretches)];
    const key = JSON.stringify([change.door, change.way, when, first]);
    const entry = rows.get(key) ?? {
      row: { door: doorName.get(change.door)!, way: change.way, people: 0, names: [], groups: [], when, first },
      subjects: new Set(),
    };
    rows.set(key, entry);
    entry.subjects.add(subject);
    const names = subject.is.map((id) => groupName.get(id) ?? id);
    entry.row.groups = [...new Set([...entry.row.groups, ...names])].sort();
  }
  const known = new Map<Subject, string[]>();
  const counts = new Map<Subject, number>();
  for (const { row, subjects: own } of rows.values())
    for (const subject of own) {
      const people = counts.get(subject) ?? (await subject.count(db));
      counts.set(subject, people);
      row.people += people;
      if (row.names.length >= NAMES) continue;
      const names = known.get(subject) ?? (await subject.names(db, NAMES));
      known.set(subject, names);
      row.names = [...new Set([...row.names, ...names])].slice(0, NAMES);
    }
  return [...rows.values()]
    .flatMap(({ row }) => (row.people > 0 ? [row] : []))
    .sort((a, b) => (a.door < b.door ? -1 : a.door > b.door ? 1 : 0));
}

/** The assertions that hold now and would not after the change. */
async function broken(
  db: Queryable,
  siteId: string,
  before: State,
  after: State,
  subjects: readonly Subject[],
): Promise<AccessReview['breaks']> {
  const assertions = await assertionsOf(db, siteId);
  if (assertions.length === 0) return [];
  // Of those who move only they are looked at: nobody else comes to pass anything by it.
  const as = (which: 'was' | 'is') => subjects.map((subject) => ({ ...subject, groups: [...subject[which]] }));
  const [were, are] = [as('was'), as('is')];
  const found: AccessReview['breaks'] = [];
  for (const { id, name, definition } of assertions) {
    const assertion = JSON.parse(definition) as AccessAssertion;
    if (brokenBy(assertion, before, were, 1).length > 0) continue;
    const breaking = brokenBy(assertion, after, are, MOST_BROKEN);
    const told = await described(db, after, breaking);
    if (told.length > 0) found.push({ id, name, broken: told });
  }
  return found;
}

type Breaking = Broken & { by: People };

/** How some people break an assertion; costs their sets of groups. */
export function brokenBy(
  assertion: AccessAssertion,
  state: State,
  people: readonly People[],
  most: number,
): Breaking[] {
  const persons = people.map(({ groups }, i) => ({ id: String(i), groups }));
  return check(assertion, rightsIn(state), persons, today(state.zone), most).map((one) => ({
    ...one,
    by: people[Number(one.person)]!,
  }));
}

export async function described(db: Queryable, { doors, groups, schedules }: State, breaking: readonly Breaking[]) {
  const name = (some: readonly { id: string; name: string }[], id: string | null): string | null =>
    id === null ? null : (some.find((one) => one.id === id)?.name ?? id);
  const told = await Promise.all(
    breaking.map(async ({ by, door, group, schedule, date, time }) => ({
      person: (await by.names(db, 1))[0] ?? 'nobody any more',
      people: await by.count(db),
      door: name(doors, door)!,
      group: name(groups, group),
      schedule: name([ALWAYS, ...schedules], schedule),
      date,
      time,
    })),
  );
  return told.filter(({ people }) => people > 0);
}

/** The controllers that something about would have to be loaded into. */
async function controllersOf(
  db: Queryable,
  siteId: string,
  before: State,
  after: State,
  isMove: boolean,
): Promise<string[]> {
  const guarded = ({ doors }: State) => doors.filter(({ byGroups }) => byGroups);
  const touched = new Set<string>();
  for (const door of [...guarded(before), ...guarded(after)]) {
    const text = (state: State) =>
      canonicalJson({
        doors: state.doors.filter((other) => other.controllerId === door.controllerId && other.byGroups),
        rights: guardedRights(state, door.id),
        holidays: state.holidays,
      });
    if (isMove || text(before) !== text(after)) touched.add(door.controllerId);
  }
  if (touched.size === 0) return [];
  const rows = await db
    .select({ name: controllerTable.name })
    .from(controllerTable)
    .where(and(eq(controllerTable.siteId, siteId), inArray(controllerTable.id, [...touched])))
    .orderBy(controllerTable.name);
  return rows.map(({ name }) => name);
}

const guardedRights = ({ groups, schedules }: State, door: string) =>
  groups.flatMap(({ id, name, rights }) =>
    rights.flatMap(({ doors, schedule }) => {
      const own = doors.filter((right) => right.door === door);
      if (own.length === 0) return [];
      const by = schedules.find((other) => other.id === schedule);
      return [{ id, name, own, by: by && { periods: by.periods, onHolidays: by.onHolidays, name: by.name } }];
    }),
  );
