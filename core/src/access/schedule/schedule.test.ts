/**
 * Schedules against Temporal (ECMAScript proposal, as the temporal-polyfill package has it), minute by minute over two years
 * with every change of the clocks in them; sets of minutes against counting; assertions against every minute of many days.
 */
import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { describe, expect, it } from 'vitest';
import {
  type AccessAssertion,
  type AccessGroup,
  bothOf,
  check,
  dateOf,
  dayKinds,
  dayOf,
  type Holiday,
  holdsAt,
  holdsMinute,
  minutesOf,
  minutesOfDay,
  type Period,
  type Schedule,
  scheduleSchema,
  type Way,
  wallClock,
  weekdayOf,
  without,
} from './index.ts';

const time = fc
  .integer({ min: 0, max: 1439 })
  .map((m) => `${String(Math.floor(m / 60)).padStart(2, '0')}:${String(m % 60).padStart(2, '0')}`);
const period = fc.record({ from: time, to: fc.oneof(time, fc.constant('24:00')) });
const schedule = fc.record({
  id: fc.constant('s'),
  name: fc.constant('S'),
  periods: fc.array(
    fc
      .tuple(period, fc.uniqueArray(fc.integer({ min: 1, max: 7 }), { minLength: 1 }))
      .map(([p, days]) => ({ ...p, days })),
    { maxLength: 4 },
  ),
  onHolidays: fc.oneof(fc.constant('as other days' as const), fc.array(period, { maxLength: 2 })),
});
const HOLIDAYS: Holiday[] = [
  { name: 'Midwinter', date: '2025-12-25', yearly: true },
  { name: 'Midwinter, second day', date: '2025-12-26', yearly: true },
  { name: 'Leap day', date: '2024-02-29', yearly: true },
  { name: 'Harbour day', date: '2026-10-25', yearly: false },
];

/** Whether a schedule holds, from its words: written apart from what it checks. */
function holdsByWords({ periods, onHolidays }: Schedule, date: Temporal.PlainDate, at: string): boolean {
  const beginning = (day: Temporal.PlainDate): readonly Period[] => {
    const isHoliday = HOLIDAYS.some(({ date: on, yearly }) =>
      yearly ? day.toString().slice(5) === on.slice(5) && day.toString() >= on : day.toString() === on,
    );
    if (isHoliday && onHolidays !== 'as other days') return onHolidays;
    return periods.filter(({ days }) => days.includes(day.dayOfWeek));
  };
  const today = beginning(date).some(({ from, to }) => from <= at && (at < to || to <= from));
  const carried = beginning(date.subtract({ days: 1 })).some(({ from, to }) => to <= from && at < to);
  return today || carried;
}

describe('schedules', () => {
  it.each([
    'Europe/Oslo',
    'Australia/Lord_Howe',
    'America/St_Johns',
  ])('%s: hold as Temporal’s clocks say, every minute of two years', (zone) => {
    const schedules = fc.sample(schedule, { numRuns: 3, seed: 11 }) as Schedule[];
    const clock = wallClock(zone);
    const kindOf = dayKinds(HOLIDAYS);
    const begin = Temporal.ZonedDateTime.from(`2025-06-01T00:00[${zone}]`).epochMilliseconds;
    const end = Temporal.ZonedDateTime.from(`2027-06-01T00:00[${zone}]`).epochMilliseconds;
    let [minutes, wrong] = [0, 0];
    // Clocks are changed on a quarter of an hour: within one they go on minute by minute.
    for (let quarter = begin; quarter < end; quarter += 900_000) {
      const plain = Temporal.Instant.fromEpochMilliseconds(quarter).toZonedDateTimeISO(zone).toPlainDateTime();
      for (let k = 0; k < 15; k++, minutes++) {
        const minute = plain.hour * 60 + plain.minute + k;
        const shown = clock(quarter + k * 60_000);
        if (dateOf(shown.day) !== plain.toPlainDate().toString() || shown.minute !== minute) wrong++;
        if (k % 5) continue;
        const at = `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;
        for (const one of schedules)
          if (holdsAt(one, kindOf, shown) !== holdsByWords(one, plain.toPlainDate(), at)) wrong++;
      }
    }
    expect([minutes, wrong]).toEqual([(end - begin) / 60_000, 0]);
  });

  it('hold at every minute of many days as their words say', () => {
    const kindOf = dayKinds(HOLIDAYS);
    fc.assert(
      fc.property(schedule, fc.integer({ min: 0, max: 800 }), (one, after) => {
        const day = dayOf('2025-10-20') + after;
        const date = Temporal.PlainDate.from(dateOf(day));
        const set = minutesOfDay(one as Schedule, kindOf, day);
        for (let minute = 0; minute < 1440; minute++) {
          const at = `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;
          expect(holdsMinute(set, minute)).toBe(holdsByWords(one as Schedule, date, at));
        }
      }),
      { numRuns: 60 },
    );
  });

  it('an hour that comes twice holds twice, one that is left out never', () => {
    const clock = wallClock('Europe/Oslo');
    const kindOf = dayKinds([]);
    const night = scheduleSchema.parse({ id: 'n', name: 'N', periods: [{ days: [7], from: '02:00', to: '03:00' }] });
    const held = (from: string) => {
      const at = Date.parse(from);
      return Array.from({ length: 5 * 60 }, (_, m) => holdsAt(night, kindOf, clock(at + m * 60_000))).filter(Boolean)
        .length;
    };
    expect(held('2026-10-24T23:00:00Z')).toBe(120);
    expect(held('2026-03-28T23:00:00Z')).toBe(0);
    expect(held('2026-06-27T23:00:00Z')).toBe(60);
  });

  it('days and weekdays are Temporal’s, from 1970 to 2100', () => {
    let date = Temporal.PlainDate.from('1970-01-01');
    for (let day = 0; day < 47_483; day++, date = date.add({ days: 1 }))
      if (dateOf(day) !== date.toString() || dayOf(date.toString()) !== day || weekdayOf(day) !== date.dayOfWeek)
        throw new Error(`day ${day} is not ${date}`);
    expect(() => dayOf('2026-02-29')).toThrow('is no day');
    expect(() => wallClock('Europe/Nowhere')).toThrow('no time zone "Europe/Nowhere"');
  });

  it('sets of minutes are what counting gives', () => {
    const range = fc
      .tuple(fc.integer({ min: 0, max: 60 }), fc.integer({ min: 0, max: 60 }))
      .map(([from, to]) => ({ from, to }));
    fc.assert(
      fc.property(fc.array(range, { maxLength: 6 }), fc.array(range, { maxLength: 6 }), (a, b) => {
        const inOne = (list: typeof a, m: number) => list.some(({ from, to }) => from <= m && m < to);
        const [left, right] = [minutesOf(a), minutesOf(b)];
        for (let m = 0; m <= 61; m++) {
          expect(holdsMinute(left, m)).toBe(inOne(a, m));
          expect(holdsMinute(bothOf(left, right), m)).toBe(inOne(a, m) && inOne(b, m));
          expect(holdsMinute(without(left, right), m)).toBe(inOne(a, m) && !inOne(b, m));
        }
      }),
    );
  });
});

describe('assertions over who may pass', () => {
  const from = dayOf('2026-11-30');
  const always: Period = { from: '00:00', to: '24:00' };
  const of = (id: string, periods: Schedule['periods'], onHolidays: Schedule['onHolidays'] = []): Schedule => ({
    id,
    name: id,
    periods,
    onHolidays,
  });
  const group = (id: string, door: string, schedule: string, ways: Way[] = ['in']): AccessGroup => ({
    id,
    name: id,
    rights: [{ doors: [{ door, ways }], schedule }],
  });
  const night = (but: string[]): AccessAssertion => ({
    name: 'The gear store at night',
    but,
    doors: ['gear store'],
    way: 'in',
    during: { periods: [{ days: [1, 2, 3, 4, 5, 6, 7], from: '22:00', to: '06:00' }], onHolidays: 'as other days' },
  });
  const days = of('days', [{ days: [1, 2, 3, 4, 5], from: '06:00', to: '22:00' }]);
  const people = [
    { id: 'Ragna', groups: ['labs'] },
    { id: 'Isak', groups: ['divers', 'labs'] },
  ];

  it('hold where nobody else is let in, by the minute', () => {
    const rights = {
      groups: [group('labs', 'gear store', 'days'), group('divers', 'gear store', 'all')],
      schedules: [days, of('all', [{ days: [1, 2, 3, 4, 5, 6, 7], ...always }])],
      holidays: HOLIDAYS,
    };
    expect(check(night(['divers']), rights, people, from)).toEqual([]);
    // One minute past ten in the evening, on Mondays.
    const late = of('days', [{ days: [1], from: '06:00', to: '22:01' }]);
    expect(
      check(night(['divers']), { ...rights, schedules: [late, ...rights.schedules.slice(1)] }, people, from),
    ).toEqual([
      { person: 'Ragna', group: 'labs', door: 'gear store', schedule: 'days', date: '2026-11-30', time: '22:00' },
    ]);
  });

  it('are broken by what holds on a holiday alone, on the first that comes; the way out is another matter', () => {
    const holiday = of('days', days.periods, [{ from: '23:00', to: '01:00' }]);
    const rights = {
      groups: [group('labs', 'gear store', 'days')],
      schedules: [holiday],
      holidays: [{ name: 'Spring', date: '2029-05-01', yearly: true }],
    };
    expect(check(night(['divers']), rights, people, from)).toMatchObject([{ date: '2029-05-01', time: '23:00' }]);
    expect(
      check(night(['divers']), { ...rights, groups: [group('labs', 'gear store', 'days', ['out'])] }, people, from),
    ).toEqual([]);
  });

  it('agree with looking at every minute of a year with holidays, on random sites', () => {
    const doors = ['gear store', 'cold store'];
    const site = fc.record({
      schedules: fc.tuple(schedule, schedule),
      groups: fc.array(fc.tuple(fc.constantFrom(...doors), fc.constantFrom(0, 1), fc.constantFrom<Way>('in', 'out')), {
        minLength: 1,
        maxLength: 3,
      }),
      but: fc.uniqueArray(fc.constantFrom('g0', 'g1', 'g2'), { maxLength: 2 }),
      members: fc.array(fc.uniqueArray(fc.constantFrom('g0', 'g1', 'g2'), { maxLength: 3 }), {
        minLength: 1,
        maxLength: 3,
      }),
      window: schedule,
    });
    const kindOf = dayKinds(HOLIDAYS);
    let found = 0;
    fc.assert(
      fc.property(site, ({ schedules: [a, b], groups, but, members, window }) => {
        const schedules = [
          { ...a, id: 's0' },
          { ...b, id: 's1' },
        ] as Schedule[];
        const made = groups.map(([door, s, way], i) => group(`g${i}`, door, `s${s}`, [way]));
        const assertion: AccessAssertion = {
          name: 'A',
          but,
          doors: ['gear store'],
          way: 'in',
          during: window as Schedule,
        };
        const persons = members.map((own, i) => ({ id: `p${i}`, groups: own as string[] }));
        const broken = check(assertion, { groups: made, schedules, holidays: HOLIDAYS }, persons, from);
        /** The first minute at which somebody of the group passes where nobody but others may. */
        const firstMinute = (one: Schedule): string | undefined => {
          for (let day = from; day < from + 400; day++) {
            const date = Temporal.PlainDate.from(dateOf(day));
            for (let minute = 0; minute < 1440; minute++) {
              const at = `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;
              if (holdsMinute(minutesOfDay(window as Schedule, kindOf, day), minute) && holdsByWords(one, date, at))
                return `${dateOf(day)} ${at}`;
              // A day that cannot be one is passed over at once.
              if (minutesOfDay(window as Schedule, kindOf, day).length === 0) break;
            }
          }
          return undefined;
        };
        const wanted = persons.flatMap(({ id, groups: own }) =>
          own.some((g) => (but as string[]).includes(g))
            ? []
            : made.flatMap((g) => {
                const right = g.rights[0]!;
                if (!own.includes(g.id) || right.doors[0]!.door !== 'gear store' || right.doors[0]!.ways[0] !== 'in')
                  return [];
                const at = firstMinute(schedules.find((s) => s.id === right.schedule)!);
                return at ? [`${id} ${g.id} ${at}`] : [];
              }),
        );
        expect(broken.map(({ person, group: g, date, time: at }) => `${person} ${g} ${date} ${at}`).sort()).toEqual(
          wanted.sort(),
        );
        found += wanted.length;
      }),
      { numRuns: 40, seed: 5 },
    );
    expect(found).toBeGreaterThan(5);
  });
});
