/** What a controller makes of groups and schedules, weeks as drawn, and what a change does: against every minute, by words. */
import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { describe, expect, it } from 'vitest';
import { met, runs, seedOr } from '../../../testing/runs.ts';
import { HOLIDAYS, holdsByWords, schedule } from '../../../testing/schedules.ts';
import { ALWAYS, dateOf, dayOf, holdsMinute, type Schedule, timeInWords, weekdayOf } from '../schedule/index.ts';
import {
  type AccessGroup,
  type Change,
  differences,
  firstOf,
  type GuardedDoor,
  openedBy,
  passages,
  type Rights,
  type Stretch,
  scheduleInWords,
  stretchesInWords,
  type Way,
  weekOf,
} from './index.ts';

const DOORS = ['gear store', 'cold store'];
const anyWay = fc.constantFrom<Way>('in', 'out');
const anyGroups = fc.tuple(
  ...['labs', 'divers', 'guests'].map((id) =>
    fc
      .array(
        fc.record({
          doors: fc.array(fc.record({ door: fc.constantFrom(...DOORS), ways: fc.tuple(anyWay) }), {
            minLength: 1,
            maxLength: 2,
          }),
          schedule: fc.constantFrom('s0', 's1', 'always'),
        }),
        { maxLength: 2 },
      )
      .map((rights): AccessGroup => ({ id, name: id, rights })),
  ),
);
const anySchedules = fc
  .tuple(schedule, schedule)
  .map((two) => two.map((one, i) => ({ ...one, id: `s${i}` }) as Schedule));
const anyMembership = fc.subarray(['labs', 'divers', 'guests']);

/** Whether somebody in these groups passes, by the words of what they have. */
function passesByWords(
  rights: Rights,
  own: readonly string[],
  door: string,
  way: Way,
  day: number,
  at: string,
): boolean {
  return rights.groups.some(
    (group) =>
      own.includes(group.id) &&
      group.rights.some(
        (right) =>
          right.doors.some((d) => d.door === door && d.ways.includes(way)) &&
          [ALWAYS, ...rights.schedules].some(
            (one) => one.id === right.schedule && holdsByWords(one, dateOf(day), at, rights.holidays),
          ),
      ),
  );
}

describe('passing at a reader', () => {
  it('is by the groups of the card and the clocks on the wall, as words say it', () => {
    const zone = 'Europe/Oslo';
    fc.assert(
      fc.property(
        anyGroups,
        anySchedules,
        anyMembership,
        anyWay,
        fc.integer({ min: 0, max: 400 * 1440 }),
        (groups, schedules, own, way, minutes) => {
          const doors: GuardedDoor[] = DOORS.map((id) => ({
            id,
            name: id,
            byGroups: true,
            readers: [{ reader: `${id} ${way}`, way }],
          }));
          const at = passages({ doors, groups, schedules, calendar: { zone, holidays: HOLIDAYS } });
          const instant = Temporal.Instant.from('2026-10-01T00:00:00Z').add({ minutes });
          const shown = instant.toZonedDateTimeISO(zone).toPlainDateTime();
          const [day, time] = [dayOf(shown.toPlainDate().toString()), shown.toString().slice(11, 16)];
          for (const door of DOORS) {
            const passing = at(`${door} ${way}`, instant.epochMilliseconds);
            const rights = { groups, schedules, holidays: HOLIDAYS };
            const wanted = passesByWords(rights, own, door, way, day, time)
              ? 'passes'
              : openedBy(
                    groups.filter(({ id }) => own.includes(id)),
                    door,
                    way,
                  ).length > 0
                ? 'schedule'
                : 'group';
            const carrier = { groups: own, holder: 'Ragna' };
            expect(passing.standing(carrier)).toBe(wanted);
            expect(passing.inWords(carrier)).toContain(door);
          }
        },
      ),
      { numRuns: 300 },
    );
  });

  it('is for everybody where the door says so, and at readers of no door; says in words why not', () => {
    const night = { id: 'n', name: 'Nights', periods: [{ days: [2], from: '22:00', to: '06:00' }], onHolidays: [] };
    const guarding = {
      doors: [{ id: 'd', name: 'Gear store', byGroups: true, readers: [{ reader: 'r', way: 'in' as const }] }],
      groups: [{ id: 'g', name: 'Divers', rights: [{ doors: [{ door: 'd', ways: ['in' as const] }], schedule: 'n' }] }],
      schedules: [night],
      calendar: { zone: 'Europe/Oslo', holidays: [] },
    };
    const isak = { groups: ['g'], holder: 'Isak' };
    // 2026-12-01 is a Tuesday; the clocks of Oslo are an hour ahead of UTC in winter.
    const [before, from] = ['2026-12-01T20:59:59Z', '2026-12-01T21:00:00Z'].map((at) =>
      passages(guarding)('r', Date.parse(at)),
    );
    expect([before!.standing(isak), from!.standing(isak)]).toEqual(['schedule', 'passes']);
    expect(before!.inWords(isak)).toBe(
      'Gear store, in: Divers, by Nights, does not hold now, Tuesday 2026-12-01 21:59.',
    );
    expect(from!.inWords(isak)).toBe('Gear store, in: Divers, by Nights.');
    expect(from!.inWords({ holder: null })).toBe(
      'Gear store, in: only access groups let anybody pass, and this card is in none.',
    );
    expect(from!.inWords({ groups: ['x'], holder: 'Ragna' })).toBe(
      'Gear store, in: no access group of Ragna has this door.',
    );
    expect(passages(guarding)('another', 0).standing({ holder: null })).toBe('passes');
    const open = { ...guarding, doors: [{ ...guarding.doors[0]!, byGroups: false }] };
    expect(passages(open)('r', 0).standing({ holder: null })).toBe('passes');
    expect(passages({ ...guarding, calendar: undefined })('r', Date.parse('2026-12-01T21:00:00Z')).standing(isak)).toBe(
      'schedule',
    );
  });
});

describe('what a change does', () => {
  const from = dayOf('2026-12-20');
  const anyRights = fc.record({
    groups: anyGroups,
    schedules: anySchedules,
    holidays: fc.subarray(HOLIDAYS),
    open: fc.subarray(DOORS, { maxLength: 1 }).map((doors) => new Set(doors)),
  });
  const inStretch = (of: readonly Stretch[], was: Rights, is: Rights, day: number, minute: number): boolean => {
    const isHoliday = ({ holidays }: Rights, d: number) =>
      holidays.some(({ date: on, yearly }) =>
        yearly ? dateOf(d).slice(5) === on.slice(5) && dateOf(d) >= on : dateOf(d) === on,
      );
    const sort = (d: number) => {
      const [before, now] = [isHoliday(was, d), isHoliday(is, d)];
      if (before) return now ? 'a holiday' : 'a day that is a holiday no more';
      return now ? 'a day that becomes a holiday' : 'a usual day';
    };
    return of.some(
      (s) =>
        s.day === sort(day) &&
        s.eve === sort(day - 1) &&
        s.weekday === weekdayOf(day) &&
        holdsMinute(s.minutes, minute),
    );
  };

  it('is who may pass at which minute afterwards and could not before, and the other way round', () => {
    let [seen, changed] = [0, 0];
    fc.assert(
      fc.property(
        anyRights,
        anyRights,
        fc.array(fc.record({ was: anyMembership, is: anyMembership }), { minLength: 1, maxLength: 3 }),
        (was, is, subjects) => {
          const found = differences(was, is, DOORS, subjects, from);
          for (const [subject, own] of subjects.entries())
            for (const door of DOORS)
              for (const way of ['in', 'out'] as const) {
                const change: Change | undefined = found.find(
                  (c) => c.subject === subject && c.door === door && c.way === way,
                );
                // A fortnight with the holidays in it, every hour and some minutes.
                for (let day = from; day < from + 14; day++)
                  for (const minute of [0, 1, 359, 719, 1000, 1320, 1439]) {
                    const at = timeInWords(minute);
                    const could = was.open.has(door) || passesByWords(was, own.was, door, way, day, at);
                    const can = is.open.has(door) || passesByWords(is, own.is, door, way, day, at);
                    const gains = inStretch(change?.gains ?? [], was, is, day, minute);
                    const loses = inStretch(change?.loses ?? [], was, is, day, minute);
                    // Asked only where it is wrong: of half a million questions the asking itself would take longest.
                    if (gains !== (can && !could) || loses !== (could && !can))
                      expect([subject, door, way, day, at, gains, loses]).toEqual('what words say');
                    seen++;
                    if (could !== can) changed++;
                  }
              }
        },
      ),
      { numRuns: runs(60), seed: seedOr(3) },
    );
    expect([seen >= met(10_000), changed >= met(400)]).toEqual([true, true]);
  });

  it('is said in words: days that share their hours together, holidays apart, and when it first comes', () => {
    const days = (to: string, onHolidays: Schedule['onHolidays']): Schedule => ({
      id: 'd',
      name: 'Days',
      periods: [{ days: [1, 2, 3, 4, 5], from: '06:00', to }],
      onHolidays,
    });
    const group: AccessGroup = {
      id: 'g',
      name: 'Labs',
      rights: [{ doors: [{ door: 'x', ways: ['in'] }], schedule: 'd' }],
    };
    const rights = (schedule: Schedule) => ({ groups: [group], schedules: [schedule], holidays: HOLIDAYS });
    const subjects = [{ was: ['g'], is: ['g'] }];
    const [change] = differences(
      rights(days('22:00', [])),
      rights(days('20:00', [{ from: '08:00', to: '12:00' }])),
      ['x'],
      subjects,
      from,
    );
    expect([stretchesInWords(change!.loses), firstOf(change!.loses)]).toEqual([
      'Mon–Fri 20:00–22:00',
      '2026-12-21 20:00',
    ]);
    expect([stretchesInWords(change!.gains), firstOf(change!.gains)]).toEqual([
      'on holidays every day 08:00–12:00',
      '2026-12-25 08:00',
    ]);
    expect(scheduleInWords(days('24:00', []))).toBe('Mon–Fri 06:00–24:00; not on holidays');
  });
});

describe('a week as drawn', () => {
  it('has the minutes that hold, the holidays by name, and the hour that comes twice or never', () => {
    const all = (first: string) => weekOf([ALWAYS], { zone: 'Europe/Oslo', holidays: HOLIDAYS }, dayOf(first));
    const autumn = all('2026-10-19');
    expect(autumn.map(({ weekday }) => weekday)).toEqual([1, 2, 3, 4, 5, 6, 7]);
    // Directive 2000/84/EC: summer time ends on the last Sunday of October at 01:00 UTC, and begins on the last of March.
    expect(autumn[6]).toEqual({
      date: '2026-10-25',
      weekday: 7,
      holiday: 'Harbour day',
      holds: [{ from: 0, to: 1440 }],
      twice: [{ from: 120, to: 180 }],
      never: [],
    });
    expect(all('2026-03-23')[6]).toMatchObject({ date: '2026-03-29', twice: [], never: [{ from: 120, to: 180 }] });
    // Half an hour, as Lord Howe Island has it (IANA time zone database).
    const island = weekOf([], { zone: 'Australia/Lord_Howe', holidays: [] }, dayOf('2026-10-04'));
    expect(island[0]).toMatchObject({ holds: [], never: [{ from: 120, to: 150 }] });
    expect(autumn.slice(0, 6).every(({ twice, never }) => twice.length + never.length === 0)).toBe(true);
  });
});
