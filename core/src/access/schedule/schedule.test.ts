/**
 * Schedules against Temporal (ECMAScript proposal, as the temporal-polyfill package has it), minute by minute over two years
 * with every change of the clocks in them; sets of minutes against counting.
 */
import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { describe, expect, it } from 'vitest';
import { isWhole, runs } from '../../../testing/runs.ts';
import { HOLIDAYS, holdsByWords, schedule } from '../../../testing/schedules.ts';
import {
  bothOf,
  dateOf,
  dayKinds,
  dayOf,
  holdsAt,
  holdsMinute,
  instantShowing,
  minutesOf,
  minutesOfDay,
  type Schedule,
  scheduleSchema,
  wallClock,
  weekdayOf,
  without,
} from './index.ts';

/** Whether an instant is within four hours of a change of a zone's clocks; there are four in two years. */
function changesOf(zone: string, begin: number, end: number): (instantMs: number) => boolean {
  const changes: number[] = [];
  let at = Temporal.Instant.fromEpochMilliseconds(begin).toZonedDateTimeISO(zone);
  for (let next = at.getTimeZoneTransition('next'); next && next.epochMilliseconds < end; ) {
    changes.push(next.epochMilliseconds);
    at = next;
    next = at.getTimeZoneTransition('next');
  }
  expect(changes).toHaveLength(4);
  return (instantMs) => changes.some((change) => Math.abs(instantMs - change) < 4 * 3_600_000);
}

describe('schedules', () => {
  it.each([
    'Europe/Oslo',
    'Australia/Lord_Howe',
    'America/St_Johns',
  ])('%s: hold as Temporal’s clocks say, the hours round each change of the clocks and a day a month, or every minute of two years', (zone) => {
    const schedules = fc.sample(schedule, { numRuns: 3, seed: 11 }) as Schedule[];
    const clock = wallClock(zone);
    const kindOf = dayKinds(HOLIDAYS);
    const begin = Temporal.ZonedDateTime.from(`2025-06-01T00:00[${zone}]`).epochMilliseconds;
    const end = Temporal.ZonedDateTime.from(`2027-06-01T00:00[${zone}]`).epochMilliseconds;
    const isChange = changesOf(zone, begin, end);
    let [minutes, wrong, expected] = [0, 0, 0];
    // Clocks are changed on a quarter of an hour: within one they go on minute by minute.
    for (let quarter = begin; quarter < end; quarter += 900_000) {
      const isFirstOfMonth = Math.floor((quarter - begin) / 86_400_000) % 30 === 0;
      if (!isWhole && !isFirstOfMonth && !isChange(quarter)) continue;
      expected += 15;
      const plain = Temporal.Instant.fromEpochMilliseconds(quarter).toZonedDateTimeISO(zone).toPlainDateTime();
      const text = plain.toPlainDate().toString();
      for (let k = 0; k < 15; k++, minutes++) {
        const minute = plain.hour * 60 + plain.minute + k;
        const shown = clock(quarter + k * 60_000);
        if (dateOf(shown.day) !== text || shown.minute !== minute) wrong++;
        if (k % 5) continue;
        const at = `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;
        for (const one of schedules) if (holdsAt(one, kindOf, shown) !== holdsByWords(one, text, at)) wrong++;
      }
    }
    expect([minutes, wrong]).toEqual([isWhole ? (end - begin) / 60_000 : expected, 0]);
    expect(expected).toBeGreaterThan(24 * 1440);
  });

  it('hold at every minute of many days as their words say', () => {
    const kindOf = dayKinds(HOLIDAYS);
    fc.assert(
      fc.property(schedule, fc.integer({ min: 0, max: 800 }), (one, after) => {
        const day = dayOf('2025-10-20') + after;
        const set = minutesOfDay(one as Schedule, kindOf, day);
        for (let minute = 0; minute < 1440; minute++) {
          const at = `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;
          expect(holdsMinute(set, minute)).toBe(holdsByWords(one as Schedule, dateOf(day), at));
        }
      }),
      { numRuns: runs(60) },
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

  it('the instant at which the clocks show a minute is Temporal’s first, and none where they leave it out', () => {
    const minuteOfYear = fc.integer({ min: 0, max: 366 * 96 - 1 });
    fc.assert(
      fc.property(
        minuteOfYear,
        fc.constantFrom('Europe/Oslo', 'Australia/Lord_Howe', 'Asia/Kolkata'),
        (quarter, zone) => {
          const [day, minute] = [dayOf('2026-01-01') + Math.floor(quarter / 96), (quarter % 96) * 15];
          const plain = Temporal.PlainDate.from(dateOf(day)).toPlainDateTime().add({ minutes: minute });
          const first = plain.toZonedDateTime(zone, { disambiguation: 'earlier' });
          const isThere = first.toPlainDateTime().equals(plain);
          expect(instantShowing(zone, { day, minute })).toBe(isThere ? first.epochMilliseconds : undefined);
        },
      ),
      {
        numRuns: 150,
        examples: [
          [(dayOf('2026-10-25') - dayOf('2026-01-01')) * 96 + 10, 'Europe/Oslo'],
          [(dayOf('2026-03-29') - dayOf('2026-01-01')) * 96 + 10, 'Europe/Oslo'],
        ],
      },
    );
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
