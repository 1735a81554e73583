/**
 * What a change of groups, schedules, holidays or doors does: who may pass which doors at which minutes afterwards and could
 * not before, and the other way round. Exact, by ranges of minutes on every kind of day that comes in a cycle of the calendar.
 */
import {
  ALWAYS,
  type DayKind,
  dateOf,
  dayKinds,
  type MinuteRange,
  minutesOf,
  minutesOn,
  type Schedule,
  timeInWords,
  type Weekday,
  without,
} from '../schedule/index.ts';
import { keyAt, rightsByGroup } from './byDoor.ts';
import { hasReader, type Rights, WAYS, type Way } from './groups.ts';
import { CYCLE } from './proof.ts';
import { daysInWords, minutesInWords } from './words.ts';

/** What a day is before a change of the holidays and after it. */
export type DaySort = 'a usual day' | 'a holiday' | 'a day that becomes a holiday' | 'a day that is a holiday no more';

/** Minutes on a kind of day, and when it first comes. */
export interface Stretch {
  weekday: Weekday;
  day: DaySort;
  /** The day before it: what began on that one may go on past midnight. */
  eve: DaySort;
  minutes: MinuteRange[];
  first: number;
}

export interface Change {
  door: string;
  way: Way;
  /** Which of the sets of groups it is about, by its place. */
  subject: number;
  gains: readonly Stretch[];
  loses: readonly Stretch[];
}

interface Kind {
  before: { eve: DayKind; day: DayKind };
  after: { eve: DayKind; day: DayKind };
  first: number;
}

/** Every kind of day that comes in a cycle under two calendars, where it comes first. */
function kindsUnder(before: Rights, after: Rights, from: number): Kind[] {
  const [was, is] = [dayKinds(before.holidays), dayKinds(after.holidays)];
  const kinds = new Map<string, Kind>();
  let eve = { was: was(from - 1), is: is(from - 1) };
  for (let first = from; first < from + CYCLE; first++) {
    const day = { was: was(first), is: is(first) };
    const key = [day.was.weekday, eve.was.isHoliday, eve.is.isHoliday, day.was.isHoliday, day.is.isHoliday].join();
    if (!kinds.has(key))
      kinds.set(key, { before: { eve: eve.was, day: day.was }, after: { eve: eve.is, day: day.is }, first });
    eve = day;
  }
  return [...kinds.values()];
}

type ByGroup = ReturnType<typeof rightsByGroup>;

/** For a set of groups, the schedules by which it passes a door one way. */
function passing(rights: Rights, byGroup: ByGroup): (own: readonly string[], door: string, way: Way) => string[] {
  const { open } = rights;
  return (own, door, way) => {
    if (!hasReader(rights, door, way)) return [];
    if (open?.has(door)) return [ALWAYS.id];
    const key = keyAt(door, way);
    const schedules = new Set<string>();
    for (const group of own) for (const id of byGroup.get(group)?.get(key) ?? []) schedules.add(id);
    return [...schedules].sort();
  };
}

/** What a change touches: nothing else can be otherwise for anybody. */
interface Touched {
  /** Doors and ways that are passed otherwise by everybody: with other readers, opened to all, or to groups. */
  everybody: ReadonlySet<string>;
  /** By groups, those of their doors and ways whose schedules are others, or hold at other times. */
  byGroup: ReadonlyMap<string, ReadonlySet<string>>;
}

const NOTHING: ReadonlySet<string> = new Set();
const textOf = (value: unknown): string => JSON.stringify(value);

function touchedBy(before: Rights, after: Rights, was: ByGroup, is: ByGroup, doors: readonly string[]): Touched {
  const holidays = textOf(before.holidays) !== textOf(after.holidays);
  const [old, now] = [byId(before), byId(after)];
  const schedules = new Set(
    [...new Set([...old.keys(), ...now.keys()])].filter((id) => {
      const [a, b] = [old.get(id), now.get(id)];
      return textOf([a?.periods, a?.onHolidays]) !== textOf([b?.periods, b?.onHolidays]);
    }),
  );
  const everybody = new Set(
    doors.flatMap((door) =>
      WAYS.filter(
        (way) =>
          hasReader(before, door, way) !== hasReader(after, door, way) ||
          before.open?.has(door) !== after.open?.has(door),
      ).map((way) => keyAt(door, way)),
    ),
  );
  const isTouched = (a: ReadonlySet<string>, b: ReadonlySet<string>): boolean => {
    if (holidays || a.size !== b.size) return true;
    for (const id of a) if (!b.has(id) || schedules.has(id)) return true;
    return false;
  };
  const byGroup = new Map<string, Set<string>>();
  for (const group of new Set([...was.keys(), ...is.keys()])) {
    const [own, next] = [was.get(group), is.get(group)];
    const keys = new Set<string>();
    for (const [key, a] of own ?? []) if (isTouched(a, next?.get(key) ?? NOTHING)) keys.add(key);
    for (const key of next?.keys() ?? []) if (!own?.has(key)) keys.add(key);
    if (keys.size > 0) byGroup.set(group, keys);
  }
  return { everybody, byGroup };
}

/** The groups that some people are in, before a change and after it. */
export interface Subject {
  was: readonly string[];
  is: readonly string[];
}

/**
 * Who gains and who loses what, from a day on (counted from 1970-01-01); `subjects` share what groups they are in. Costs all rights
 * once, and of the subjects the doors that the change touches for their groups, or that they have by groups that they come into
 * or leave; the days only once for each pair of sets of schedules.
 */
export const differences = (...asked: Parameters<typeof eachDifference>): Change[] =>
  [...eachDifference(...asked)].flat();

/** As `differences`, the changes of one subject after another: whoever asks can let others in between, or leave off. */
export function* eachDifference(
  before: Rights,
  after: Rights,
  doors: readonly string[],
  subjects: readonly Subject[],
  from: number,
): Generator<Change[]> {
  const kinds = kindsUnder(before, after, from);
  const [had, has] = [rightsByGroup(before), rightsByGroup(after)];
  const [could, can] = [passing(before, had), passing(after, has)];
  const [was, is] = [byId(before), byId(after)];
  const touched = touchedBy(before, after, had, has, doors);
  const places = new Map(doors.flatMap((door, i) => WAYS.map((way, w) => [keyAt(door, way), 2 * i + w] as const)));
  const known = new Map<string, Pick<Change, 'gains' | 'loses'>>();
  const between = (old: readonly string[], now: readonly string[]) => {
    const key = `${old.join()}|${now.join()}`;
    const found = known.get(key) ?? stretches(kinds, schedulesOf(was, old), schedulesOf(is, now));
    known.set(key, found);
    return found;
  };
  for (const [subject, own] of subjects.entries())
    yield placesOf(own, touched, had, has, places).flatMap((place) => {
      const [door, way] = [doors[place >> 1]!, WAYS[place & 1]!];
      const { gains, loses } = between(could(own.was, door, way), can(own.is, door, way));
      return gains.length + loses.length === 0 ? [] : [{ door, way, subject, gains, loses }];
    });
}

/** The doors and ways that may be otherwise for some people, in their order: as numbers, two a door. */
function placesOf(
  { was, is }: Subject,
  { everybody, byGroup }: Touched,
  had: ByGroup,
  has: ByGroup,
  places: ReadonlyMap<string, number>,
): number[] {
  const found = new Set<number>();
  const add = (keys: Iterable<string>) => {
    for (const key of keys) {
      const place = places.get(key);
      if (place !== undefined) found.add(place);
    }
  };
  add(everybody);
  const [old, now] = [new Set(was), new Set(is)];
  for (const group of old) add(now.has(group) ? (byGroup.get(group) ?? []) : (had.get(group)?.keys() ?? []));
  for (const group of now) if (!old.has(group)) add(has.get(group)?.keys() ?? []);
  return [...found].sort((a, b) => a - b);
}

const byId = ({ schedules }: Rights): ReadonlyMap<string, Schedule> =>
  new Map([ALWAYS, ...schedules].map((schedule) => [schedule.id, schedule]));
const schedulesOf = (known: ReadonlyMap<string, Schedule>, ids: readonly string[]): Schedule[] =>
  ids.flatMap((id) => known.get(id) ?? []);

function stretches(kinds: readonly Kind[], old: readonly Schedule[], now: readonly Schedule[]) {
  const [gains, loses]: [Stretch[], Stretch[]] = [[], []];
  for (const { before, after, first } of kinds) {
    const [had, has] = [minutesOfAll(old, before), minutesOfAll(now, after)];
    const kind = {
      weekday: before.day.weekday,
      day: sortOf(before.day.isHoliday, after.day.isHoliday),
      eve: sortOf(before.eve.isHoliday, after.eve.isHoliday),
      first,
    };
    const [gained, lost] = [without(has, had), without(had, has)];
    if (gained.length > 0) gains.push({ ...kind, minutes: gained });
    if (lost.length > 0) loses.push({ ...kind, minutes: lost });
  }
  return { gains, loses };
}

const minutesOfAll = (schedules: readonly Schedule[], { eve, day }: Kind['before']): MinuteRange[] =>
  minutesOf(schedules.flatMap((schedule) => minutesOn(schedule, eve, day)));

const sortOf = (was: boolean, is: boolean): DaySort =>
  was ? (is ? 'a holiday' : 'a day that is a holiday no more') : is ? 'a day that becomes a holiday' : 'a usual day';

const CALLED = {
  'a usual day': '',
  'a holiday': 'on holidays ',
  'a day that becomes a holiday': 'on days that become holidays ',
  'a day that is a holiday no more': 'on days that are holidays no more ',
} as const satisfies Record<DaySort, string>;
const SORTS = Object.keys(CALLED) as DaySort[];

/** `Mon–Fri 18:00–22:00; on holidays every day all day`, first on the first of them. */
export function stretchesInWords(all: readonly Stretch[]): string {
  const lines = (of: readonly Stretch[], called: string): string[] => {
    const byMinutes = new Map<string, number[]>();
    for (const { minutes, weekday } of of) {
      const key = minutesInWords(minutes);
      byMinutes.set(key, [...(byMinutes.get(key) ?? []), weekday]);
    }
    return [...byMinutes].map(([minutes, days]) => `${called}${daysInWords([...new Set(days)].sort())} ${minutes}`);
  };
  return SORTS.flatMap((day) => {
    const here = all.filter((stretch) => stretch.day === day);
    const usual = here.filter(({ eve }) => eve === 'a usual day');
    const isSame = ({ weekday, minutes }: Stretch) =>
      usual.some((one) => one.weekday === weekday && minutesInWords(one.minutes) === minutesInWords(minutes));
    return [
      ...lines(usual, CALLED[day]),
      ...SORTS.slice(1).flatMap((eve) =>
        lines(
          here.filter((stretch) => stretch.eve === eve && !isSame(stretch)),
          `${CALLED[day]}after ${eve}, `,
        ),
      ),
    ];
  }).join('; ');
}

/** The first minute that any of them is about: `2026-12-01 22:00`. */
export function firstOf(all: readonly Stretch[]): string {
  const first = all.reduce((a, b) => (b.first < a.first ? b : a));
  return `${dateOf(first.first)} ${timeInWords(first.minutes[0]!.from)}`;
}
