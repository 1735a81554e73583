/**
 * Assertions over who may pass where, and when: "nobody but the dive group can enter the gear store between 22:00 and
 * 06:00". Checked exactly, by ranges of minutes and not by samples, on every kind of day that comes in the next 28 years (after
 * which days of the week and of the year come again as they were, up to 2099); broken by a person, a door and a minute.
 */
import { z } from 'zod';
import {
  ALWAYS,
  bothOf,
  type DayKind,
  dateOf,
  dayKinds,
  type Holiday,
  type MinuteRange,
  minutesOn,
  type Schedule,
  scheduleSchema,
  timeInWords,
} from '../schedule/index.ts';
import { type DoorRight, keyAt, rightsByDoor } from './byDoor.ts';
import { hasReader, type Rights, type Way, waySchema } from './groups.ts';

/** Somebody, or all who are in the same groups. */
export interface Person {
  id: string;
  groups: readonly string[];
}

export const accessAssertionSchema = z.strictObject({
  name: z.string().trim().min(1).max(120),
  /** Nobody but the members of these may pass. */
  but: z.array(z.string().max(40)).max(60),
  doors: z.array(z.string().max(40)).min(1).max(1000),
  way: waySchema,
  /** While this holds, as a schedule of its own. */
  during: scheduleSchema.pick({ periods: true, onHolidays: true }),
});
export type AccessAssertion = z.infer<typeof accessAssertionSchema>;

export interface Broken {
  person: string;
  /** The group that lets them pass, and its schedule; null where anybody passes the door. */
  group: string | null;
  door: string;
  schedule: string | null;
  /** The first such day from the one given on, and the first minute of it. */
  date: string;
  time: string;
}

/** Days after which weekdays and dates come again as they were. */
export const CYCLE = 28 * 365 + 7;

/** A kind of day with the kind of the one before it, and the first day that is so. */
interface Seen {
  before: DayKind;
  kind: DayKind;
  day: number;
}

/** Worked out once for a list of holidays: it takes a look at every day of a cycle. */
const known = new WeakMap<readonly Holiday[], { from: number; kinds: Seen[] }>();

/** Every pair of kinds that follow one another in a cycle from a day on, each where it comes first. */
export function kindsFrom(holidays: readonly Holiday[], from: number): readonly Seen[] {
  const before = known.get(holidays);
  if (before?.from === from) return before.kinds;
  const kinds = kindsIn(holidays, from);
  known.set(holidays, { from, kinds });
  return kinds;
}

function kindsIn(holidays: readonly Holiday[], from: number): Seen[] {
  const kindOf = dayKinds(holidays);
  const seen = new Map<string, Seen>();
  let before = kindOf(from - 1);
  for (let day = from; day < from + CYCLE; day++) {
    const kind = kindOf(day);
    const key = `${before.isHoliday} ${kind.weekday} ${kind.isHoliday}`;
    if (!seen.has(key)) seen.set(key, { before, kind, day });
    before = kind;
  }
  return [...seen.values()];
}

/**
 * Holds an assertion against the rights, from a day on (counted from 1970-01-01). Gives, for each way in which it is broken
 * (a group's right to one of the doors), the first people, up to `most`; empty where it holds. Costs the groups with a
 * right to the doors, times the kinds of days; people only of groups that break it. All rights once, for some rights.
 */
export function check(
  assertion: AccessAssertion,
  rights: Rights,
  people: Iterable<Person>,
  from: number,
  most = 20,
): Broken[] {
  const { schedules, holidays, open } = rights;
  const passable = assertion.doors.filter((door) => hasReader(rights, door, assertion.way));
  const byId = new Map(schedules.map((schedule) => [schedule.id, schedule]));
  const kinds = kindsFrom(holidays, from);
  const window: Schedule = { id: '', name: '', ...assertion.during };
  const shared = new Map<string, ReturnType<typeof firstShared>>();
  const sharedBy = (id: string) => {
    const schedule = byId.get(id);
    if (!shared.has(id)) shared.set(id, schedule && firstShared(schedule, window, kinds));
    return shared.get(id);
  };
  const but = new Set(assertion.but);
  const breaking = firstDoors(rights, passable, assertion.way).flatMap(({ group, door, schedule }) => {
    const at = but.has(group) ? undefined : sharedBy(schedule);
    return at ? [{ group, door, schedule, ...at }] : [];
  });
  const everybody = passable.flatMap((door) => {
    const at = open?.has(door) ? firstShared(ALWAYS, window, kinds) : undefined;
    return at ? [{ group: null, door, schedule: null, ...at }] : [];
  });
  if (breaking.length === 0 && everybody.length === 0) return [];
  const byGroup = new Map<string, number[]>();
  for (const [i, { group }] of breaking.entries()) byGroup.set(group, [...(byGroup.get(group) ?? []), i]);
  const broken: Broken[] = [];
  for (const person of people) {
    if (person.groups.some((group) => but.has(group))) continue;
    for (const way of everybody) broken.push({ person: person.id, ...way });
    const own = [...new Set(person.groups)].flatMap((group) => byGroup.get(group) ?? []).sort((a, b) => a - b);
    for (const i of own) broken.push({ person: person.id, ...breaking[i]! });
    if (broken.length >= most) break;
  }
  return broken.slice(0, most);
}

/** Of every right to one of some doors one way, the first of these doors that it names; in the order of the rights. */
function firstDoors(rights: Rights, doors: readonly string[], way: Way): DoorRight[] {
  const at = rightsByDoor(rights);
  const first = new Map<string, DoorRight>();
  for (const door of new Set(doors))
    for (const one of at.get(keyAt(door, way)) ?? []) {
      const [group, right, place] = one.order;
      const key = `${group} ${right}`;
      const there = first.get(key);
      if (!there || place < there.order[2]) first.set(key, one);
    }
  return [...first.values()].sort((a, b) => a.order[0] - b.order[0] || a.order[1] - b.order[1]);
}

/** The first day, of those that stand for all, and its first minute on which both hold. */
function firstShared(a: Schedule, b: Schedule, kinds: readonly Seen[]): { date: string; time: string } | undefined {
  let first: { day: number; minute: number } | undefined;
  for (const { before, kind, day } of kinds) {
    const [range]: MinuteRange[] = bothOf(minutesOn(a, before, kind), minutesOn(b, before, kind));
    if (range && (first === undefined || day < first.day)) first = { day, minute: range.from };
  }
  return first && { date: dateOf(first.day), time: timeInWords(first.minute) };
}
