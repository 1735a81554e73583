/** Schedules by chance, and whether one holds, from its words: written apart from what it checks. */
import fc from 'fast-check';
import type { Temporal } from 'temporal-polyfill';
import type { Holiday, Period, Schedule } from '../src/access/schedule/index.ts';

const time = fc
  .integer({ min: 0, max: 1439 })
  .map((m) => `${String(Math.floor(m / 60)).padStart(2, '0')}:${String(m % 60).padStart(2, '0')}`);
const period = fc.record({ from: time, to: fc.oneof(time, fc.constant('24:00')) });
export const schedule = fc.record({
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
export const HOLIDAYS: Holiday[] = [
  { name: 'Midwinter', date: '2025-12-25', yearly: true },
  { name: 'Midwinter, second day', date: '2025-12-26', yearly: true },
  { name: 'Leap day', date: '2024-02-29', yearly: true },
  { name: 'Harbour day', date: '2026-10-25', yearly: false },
];

const eves = new Map<string, Temporal.PlainDate>();
/** The day before, worked out once. */
function eveOf(date: Temporal.PlainDate): Temporal.PlainDate {
  const text = date.toString();
  const eve = eves.get(text) ?? date.subtract({ days: 1 });
  eves.set(text, eve);
  return eve;
}

/** Whether a schedule holds at a time of a day. */
export function holdsByWords(
  { periods, onHolidays }: Schedule,
  date: Temporal.PlainDate,
  at: string,
  holidays: readonly Holiday[] = HOLIDAYS,
): boolean {
  const beginning = (day: Temporal.PlainDate): readonly Period[] => {
    const text = day.toString();
    const isHoliday = holidays.some(({ date: on, yearly }) =>
      yearly ? text.slice(5) === on.slice(5) && text >= on : text === on,
    );
    if (isHoliday && onHolidays !== 'as other days') return onHolidays;
    return periods.filter(({ days }) => days.includes(day.dayOfWeek));
  };
  const today = beginning(date).some(({ from, to }) => from <= at && (at < to || to <= from));
  const carried = beginning(eveOf(date)).some(({ from, to }) => to <= from && at < to);
  return today || carried;
}
