/** What a change touches, found by the doors that it is about, against every door and way of everybody looked at one by one. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { runs, seedOr } from '../../../testing/runs.ts';
import { ALWAYS, dayOf, type Schedule } from '../schedule/index.ts';
import { hasReader } from './groups.ts';
import {
  type AccessGroup,
  accessAssertionSchema,
  check,
  differences,
  openedBy,
  type Rights,
  WAYS,
  type Way,
} from './index.ts';

const DOORS = ['d0', 'd1', 'd2', 'd3'];
const GROUPS = ['g0', 'g1', 'g2'];
const SCHEDULES = ['s0', 's1', ALWAYS.id, 'gone'];
const HOLIDAY = '2026-12-02';
const MONDAY = dayOf('2026-11-30');

const anyWays = fc.constantFrom<Way[]>(['in'], ['out'], ['in', 'out']);
const anyGroups: fc.Arbitrary<AccessGroup[]> = fc.tuple(
  ...GROUPS.map((id) =>
    fc
      .array(
        fc.record({
          doors: fc.array(fc.record({ door: fc.constantFrom(...DOORS), ways: anyWays }), {
            minLength: 1,
            maxLength: 3,
          }),
          schedule: fc.constantFrom(...SCHEDULES),
        }),
        { maxLength: 2 },
      )
      .map((rights) => ({ id, name: id, rights })),
  ),
);
const anySchedule = (id: string): fc.Arbitrary<Schedule> =>
  fc.constantFrom('08:00', '12:00').chain((from) =>
    fc.constantFrom('16:00', '20:00').map((to) => ({
      id,
      name: id,
      periods: [{ days: [1, 2, 3, 4, 5], from, to }],
      onHolidays: [],
    })),
  );
const anyRights: fc.Arbitrary<Rights> = fc.record({
  groups: anyGroups,
  schedules: fc.tuple(anySchedule('s0'), anySchedule('s1')),
  holidays: fc.constantFrom([], [{ name: 'Day', date: HOLIDAY, yearly: false }]),
  open: fc.subarray(DOORS).map((doors) => new Set(doors)),
  ways: fc.tuple(...DOORS.map((door) => anyWays.map((ways) => [door, ways] as const))).map((all) => new Map(all)),
});
const anySubjects = fc.array(fc.record({ was: fc.subarray(GROUPS), is: fc.subarray(GROUPS) }), { maxLength: 3 });

/** The minutes that some groups have at a door one way, on a usual Wednesday and on the one that may be a holiday: by the schedules alone. */
function minutes(rights: Rights, own: readonly string[], door: string, way: Way): string {
  if (!hasReader(rights, door, way)) return '';
  const groups = rights.groups.filter(({ id }) => own.includes(id));
  const ids = rights.open?.has(door) ? [ALWAYS.id] : openedBy(groups, door, way).map(({ schedule }) => schedule);
  const isHoliday = rights.holidays.some(({ date }) => date === HOLIDAY);
  return [false, isHoliday]
    .map((holiday) =>
      Array.from({ length: 48 }, (_, half) =>
        ids.some((id) => {
          if (id === ALWAYS.id) return true;
          const [period] = rights.schedules.find((one) => one.id === id)?.periods ?? [];
          if (!period || holiday) return false;
          const at = `${String(half >> 1).padStart(2, '0')}:${half % 2 ? '30' : '00'}`;
          return at >= period.from && at < period.to;
        })
          ? '1'
          : '0',
      ).join(''),
    )
    .join(' ')
    .replace(/^[0 ]*$/, '');
}

describe('the doors that a change is about', () => {
  it('none is left out, and none told that is as it was: every door and way of everybody looked at', () => {
    fc.assert(
      fc.property(anyRights, anyRights, fc.boolean(), anySubjects, (before, other, isSmall, subjects) => {
        // A small change keeps groups and doors: then most is not looked at.
        const after = isSmall ? { ...other, groups: before.groups, open: before.open!, ways: before.ways! } : other;
        const found = differences(before, after, DOORS, subjects, MONDAY);
        const expected = subjects.flatMap(({ was, is }, subject) =>
          DOORS.flatMap((door) =>
            WAYS.filter((way) => minutes(before, was, door, way) !== minutes(after, is, door, way)).map(
              (way) => `${subject} ${door} ${way}`,
            ),
          ),
        );
        expect(found.map(({ door, way, subject }) => `${subject} ${door} ${way}`)).toEqual(expected);
      }),
      { numRuns: runs(3000), seed: seedOr(11) },
    );
  });

  it('an assertion is broken by just those whom the rights let through', () => {
    const during = { periods: [{ days: [1, 2, 3, 4, 5, 6, 7], from: '00:00', to: '24:00' }], onHolidays: [] };
    fc.assert(
      fc.property(anyRights, fc.subarray(DOORS, { minLength: 1 }), fc.subarray(GROUPS), (given, doors, but) => {
        const rights = { ...given, schedules: [ALWAYS, ...given.schedules] };
        const assertion = accessAssertionSchema.parse({ name: 'a', but, doors, way: 'in', during });
        const people = GROUPS.map((id) => ({ id, groups: [id] }));
        const found = new Set(check(assertion, rights, people, MONDAY, 1000).map(({ person }) => person));
        const expected = people.filter(
          ({ id, groups }) => !but.includes(id) && doors.some((door) => minutes(rights, groups, door, 'in') !== ''),
        );
        expect([...found].sort()).toEqual(expected.map(({ id }) => id).sort());
      }),
      { numRuns: runs(3000), seed: seedOr(12) },
    );
  });
});
