/** Schedules by chance, and whether one holds, from its words: written apart from what it checks. */
import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
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

/** A day as words need it, worked out once by Temporal. */
interface Day {
  weekday: number;
  eve: string;
}
const days = new Map<string, Day>();
function dayOf(date: string): Day {
  const known = days.get(date);
  if (known) return known;
  const plain = Temporal.PlainDate.from(date);
  const day = { weekday: plain.dayOfWeek, eve: plain.subtract({ days: 1 }).toString() };
  days.set(date, day);
  return day;
}

/** Whether a schedule holds at a time of a day (`2026-12-25`, `21:04`). */
export function holdsByWords(
  { periods, onHolidays }: Schedule,
  date: string,
  at: string,
  holidays: readonly Holiday[] = HOLIDAYS,
): boolean {
  const beginning = (day: string): readonly Period[] => {
    const isHoliday = holidays.some(({ date: on, yearly }) =>
      yearly ? day.slice(5) === on.slice(5) && day >= on : day === on,
    );
    if (isHoliday && onHolidays !== 'as other days') return onHolidays;
    return periods.filter((period) => period.days.includes(dayOf(day).weekday));
  };
  const today = beginning(date).some(({ from, to }) => from <= at && (at < to || to <= from));
  const carried = beginning(dayOf(date).eve).some(({ from, to }) => to <= from && at < to);
  return today || carried;
}
