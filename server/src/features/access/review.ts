/** What a change of rights does, before it is saved: who gains and loses which doors and when, and which assertions break. */
import { createHash } from 'node:crypto';
import type { Access, AccessChange, AccessReview } from '@rawbits/api';
import { canonicalJson } from '@rawbits/core/access';
import {
  type AccessAssertion,
  type Change,
  check,
  eachDifference,
  firstOf,
  type Stretch,
  stretchesInWords,
} from '@rawbits/core/access/rights';
import { ALWAYS, wallClock } from '@rawbits/core/access/schedule';
import { and, eq } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { conflict, invalid, notFound } from '../../platform/problem/problem.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { groupsIn } from '../rights/index.ts';
import { opens } from './counts.ts';
import { listed, type Mover, type Passers, passersAmong, passersOf, peopleNamed, type Tally } from './people.ts';
import { assertionsOf, changed, rightsIn, type State } from './state.ts';
import { controllersOf } from './touched.ts';

const NAMES = 5;
const MOST_BROKEN = 5;

export const today = (zone: string): number => wallClock(zone)(Date.now()).day;

/** Whom a change is about: all people of the site, or those whose groups it changes. */
async function subjectsOf(db: Queryable, siteId: string, change: AccessChange): Promise<Passers> {
  if (change.kind === 'members') return movers(db, siteId, change);
  if (change.kind === 'card') return ofCard(db, siteId, change);
  return passersOf(db, siteId);
}

async function movers(
  db: Queryable,
  siteId: string,
  { holders, add, remove }: Extract<AccessChange, { kind: 'members' }>,
): Promise<Passers> {
  const people = await peopleNamed(db, siteId, holders);
  if (people.length < new Set(holders).size) throw invalid('holders', 'Not all of them are cardholders of this site.');
  const moves = people.map(({ id, name, groups }) => ({ id, name, was: groups, is: moved(groups, add, remove) }));
  return passersAmong(db, siteId, moves);
}

/** Groups after some were added and some taken out. */
export const moved = (groups: readonly string[], add: readonly string[], remove: readonly string[]): string[] =>
  [...new Set([...groups.filter((id) => !remove.includes(id)), ...add])].sort();

async function ofCard(
  db: Queryable,
  siteId: string,
  { id, groups }: Extract<AccessChange, { kind: 'card' }>,
): Promise<Passers> {
  const [row] = await db
    .select({
      own: cardTable.groupSetId,
      theirs: cardholderTable.groupSetId,
      name: cardholderTable.name,
      opens: opens(),
    })
    .from(cardTable)
    .leftJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
    .where(and(eq(cardTable.id, id), eq(cardTable.siteId, siteId)));
  if (!row) throw notFound('card');
  if (row.name === null)
    throw invalid('id', 'Nobody holds this card, so no groups can hang on it.', 'Issue it to somebody first.');
  const sets = await groupsIn(db, [row.own, row.theirs]);
  const of = (set: string | null) => (set === null ? [] : (sets.get(set) ?? []));
  const together = (own: readonly string[]) => [...new Set([...own, ...of(row.theirs)])].sort();
  const was = together(of(row.own));
  return listed([{ who: id, name: row.name, opens: Number(row.opens) === 1, was, is: together(groups) }]);
}

export interface Reviewed {
  review: AccessReview;
  after: State;
  /** What was made or changed. */
  id: string | null;
}

/**
 * Costs all rights once, the doors that the change touches for each set of groups that people are in, and counting the people.
 * Others are let in between; where whoever asked has gone (`hasGone`) it ends.
 */
export async function reviewed(
  db: Queryable,
  siteId: string,
  before: State,
  change: AccessChange,
  hasGone = () => false,
): Promise<Reviewed> {
  const { state: after, id } = changed(before, change);
  const subjects = await subjectsOf(db, siteId, change);
  const isMove = change.kind === 'members' || change.kind === 'card';
  const review = await effectOn(db, siteId, { before, after, isMove, what: change }, subjects, hasGone);
  return { review, after, id };
}

/** What it does that people come into groups and leave them; costs as `reviewed`. */
export const movesReviewed = async (
  db: Queryable,
  siteId: string,
  state: State,
  moves: readonly Mover[],
): Promise<AccessReview> => {
  const effect = { before: state, after: state, isMove: moves.length > 0, what: moves };
  return effectOn(db, siteId, effect, await passersAmong(db, siteId, moves));
};

/** So long one request works at a time before others are let in. */
const A_TURN_MS = 15;

/** Lets others in where it is their turn; throws where whoever asked has gone. */
function breathing(hasGone: () => boolean): () => Promise<void> | undefined {
  let since = performance.now();
  return () => {
    if (performance.now() - since < A_TURN_MS) return undefined;
    return new Promise((resolve, reject) =>
      setImmediate(() => {
        since = performance.now();
        if (hasGone()) reject(conflict('asker-gone', 'Whoever asked for this review has gone.'));
        else resolve();
      }),
    );
  };
}

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
  passers: Passers,
  hasGone = () => false,
): Promise<AccessReview> {
  const breathe = breathing(hasGone);
  const [was, is] = [rightsIn(before), rightsIn(after)];
  const doors = [...new Set([...before.doors, ...after.doors].map((door) => door.id))];
  const changes: Change[] = [];
  for (const some of eachDifference(was, is, doors, passers.subjects, today(before.zone))) {
    for (const one of some) changes.push(one);
    await breathe();
  }
  await passers.count?.(db, [...new Set(changes.map(({ subject }) => subject))], NAMES);
  const gains = await inWords(db, before, after, passers, changes, ({ gains: some }) => some, breathe);
  const losses = await inWords(db, before, after, passers, changes, ({ loses }) => loses, breathe);
  const gained = new Set(changes.flatMap(({ door, way, gains: some }) => (some.length > 0 ? [`${way} ${door}`] : [])));
  // Who moves may break an assertion without gaining anything: by being one of the excepted no more.
  const breaks = await broken(db, siteId, before, after, passers, isMove ? 'any door' : gained);
  const controllers = await controllersOf(db, siteId, before, after, isMove);
  const text = canonicalJson({ change: what, gains, losses, breaks });
  const seen = createHash('sha256').update(text).digest('hex').slice(0, 40);
  return { gains, losses, breaks, controllers, seen };
}

async function inWords(
  db: Queryable,
  before: State,
  after: State,
  passers: Passers,
  changes: readonly Change[],
  of: (change: Change) => readonly Stretch[],
  breathe: () => Promise<void> | undefined,
): Promise<AccessReview['gains']> {
  const doorName = new Map([...before.doors, ...after.doors].map(({ id, name }) => [id, name]));
  const groupName = new Map([...before.groups, ...after.groups].map(({ id, name }) => [id, name]));
  type Row = Omit<AccessReview['gains'][number], keyof Tally | 'groups'> & {
    subjects: Set<number>;
    names: Set<string>;
  };
  const rows = new Map<string, Row>();
  // The same stretches are those of many doors and people: each is put in words once.
  const inWordsOf = new Map<readonly Stretch[], { when: string; first: string }>();
  for (const change of changes) {
    await breathe();
    const stretches = of(change);
    if (stretches.length === 0) continue;
    const { door, way, subject } = change;
    const told = inWordsOf.get(stretches) ?? { when: stretchesInWords(stretches), first: firstOf(stretches) };
    inWordsOf.set(stretches, told);
    const key = `${door} ${way} ${told.when} ${told.first}`;
    const row = rows.get(key) ?? { door: doorName.get(door)!, way, ...told, subjects: new Set(), names: new Set() };
    rows.set(key, row);
    row.subjects.add(subject);
    for (const id of passers.subjects[subject]!.is) row.names.add(groupName.get(id) ?? id);
  }
  // The same people gain many doors: each set of them is counted once.
  const known = new Map<string, Tally>();
  const told: AccessReview['gains'] = [];
  for (const { subjects, names, ...row } of rows.values()) {
    const key = [...subjects].sort((a, b) => a - b).join();
    const tally = known.get(key) ?? (await passers.tally(db, [...subjects], NAMES));
    known.set(key, tally);
    if (tally.people + tally.later > 0) told.push({ ...row, groups: [...names].sort(), ...tally });
  }
  return told.sort((a, b) => (a.door < b.door ? -1 : a.door > b.door ? 1 : 0));
}

/** The assertions that hold now and would not after the change; `at` has the ways and doors at which they can be broken by it. */
async function broken(
  db: Queryable,
  siteId: string,
  before: State,
  after: State,
  passers: Passers,
  at: ReadonlySet<string> | 'any door',
): Promise<AccessReview['breaks']> {
  const assertions = await assertionsOf(db, siteId);
  if (assertions.length === 0) return [];
  const found: AccessReview['breaks'] = [];
  for (const { id, name, definition } of assertions) {
    const assertion = JSON.parse(definition) as AccessAssertion;
    // Nobody comes to pass there who did not: it holds as it did.
    if (at !== 'any door' && !assertion.doors.some((door) => at.has(`${assertion.way} ${door}`))) continue;
    // Of those who move only they are looked at: nobody else comes to pass anything by it.
    const are = await brokenBy(db, assertion, after, passers, { at: 'is', most: MOST_BROKEN });
    if (are.length === 0) continue;
    const were = await brokenBy(db, assertion, before, passers, { at: 'was', most: MOST_BROKEN });
    const isBroken = ({ people }: { people: number }) => people > 0;
    // Broken by a card that opens is more than by one that does not open yet.
    if (were.length === 0 || (are.some(isBroken) && !were.some(isBroken))) found.push({ id, name, broken: are });
  }
  return found;
}

type Breaking = Access['assertions'][number]['broken'][number];
/** So many ways of breaking an assertion are counted, to find those that do it now. */
const LOOKED_AT = 40;

/**
 * How an assertion is broken, first by those who hold a card that opens; empty where it holds. Costs the sets of groups, and
 * counting the people of those that break it.
 */
export async function brokenBy(
  db: Queryable,
  assertion: AccessAssertion,
  state: State,
  passers: Passers,
  { at, most }: { at: 'was' | 'is'; most: number },
): Promise<Breaking[]> {
  const { doors, groups, schedules } = state;
  const persons = passers.subjects.map((subject, i) => ({ id: String(i), groups: subject[at] }));
  const rights = rightsIn(state);
  const name = (some: readonly { id: string; name: string }[], id: string | null): string | null =>
    id === null ? null : (some.find((one) => one.id === id)?.name ?? id);
  const found: Breaking[] = [];
  const known = new Map<string, Tally>();
  const all = check(assertion, rights, persons, today(state.zone), Number.POSITIVE_INFINITY);
  const first = new Set<number>();
  for (const { person } of all) if (first.size < LOOKED_AT) first.add(Number(person));
  await passers.count?.(db, [...first], NAMES);
  for (const one of all) {
    const tally = known.get(one.person) ?? (await passers.tally(db, [Number(one.person)], 1));
    known.set(one.person, tally);
    if (tally.people + tally.later === 0) continue;
    found.push({
      person: tally.names[0]!,
      people: tally.people,
      later: tally.later,
      door: name(doors, one.door)!,
      group: name(groups, one.group),
      schedule: name([ALWAYS, ...schedules], one.schedule),
      date: one.date,
      time: one.time,
    });
    if (found.filter(({ people }) => people > 0).length >= most || found.length >= LOOKED_AT) break;
  }
  return found.sort((a, b) => Number(b.people > 0) - Number(a.people > 0)).slice(0, most);
}
