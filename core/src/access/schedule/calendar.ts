/** Days of the proleptic Gregorian calendar, counted from 1970-01-01; which of them are holidays. */
import { z } from 'zod';
import { fail } from '../../failure/index.ts';

/** Monday is 1, Sunday 7 (ISO 8601). */
export type Weekday = 1 | 2 | 3 | 4 | 5 | 6 | 7;

/** `2026-12-25` as a day, of the years 1000 to 9999; throws `date` where there is no such day. */
export function dayOf(date: string): number {
  const parts = /^([1-9]\d{3})-(\d{2})-(\d{2})$/.exec(date);
  const [year, month, day] = parts ? parts.slice(1).map(Number) : [];
  const ms = parts ? Date.UTC(year!, month! - 1, day!) : Number.NaN;
  if (Number.isNaN(ms) || dateOf(ms / 86_400_000) !== date)
    fail('date', `"${date}" is no day.`, undefined, 'Write it as 2026-12-25.');
  return ms / 86_400_000;
}

export const dateOf = (day: number): string => new Date(day * 86_400_000).toISOString().slice(0, 10);

/** 1970-01-01 was a Thursday. */
export const weekdayOf = (day: number): Weekday => (((((day + 3) % 7) + 7) % 7) + 1) as Weekday;

const dateSchema = z.string().refine((text) => {
  try {
    dayOf(text);
    return true;
  } catch {
    return false;
  }
}, 'There is no such day. Write it as 2026-12-25.');

export const holidaySchema = z.strictObject({
  name: z.string().trim().min(1).max(120),
  date: dateSchema,
  /** Every year on this day of this month from that year on; 29 February in leap years only. */
  yearly: z.boolean().default(false),
});
export type Holiday = z.infer<typeof holidaySchema>;

/** Looks holidays up by day; building it costs the holidays, looking up nothing. */
export function holidaysOf(holidays: readonly Holiday[]): (day: number) => Holiday | undefined {
  const once = new Map<string, Holiday>();
  const yearly = new Map<string, Holiday>();
  for (const holiday of holidays)
    (holiday.yearly ? yearly : once).set(holiday.date.slice(holiday.yearly ? 5 : 0), holiday);
  return (day) => {
    const date = dateOf(day);
    const everyYear = yearly.get(date.slice(5));
    return once.get(date) ?? (everyYear && everyYear.date <= date ? everyYear : undefined);
  };
}
