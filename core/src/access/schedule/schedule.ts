/**
 * Schedules: when something holds, by the clocks on the wall of the site. A period belongs to the day on which it begins and
 * runs to its end, past midnight where it ends at or before its beginning, whatever the next day is. What the clocks show
 * decides: an hour that comes twice holds twice, one that is left out never comes.
 */
import { z } from 'zod';
import { type Holiday, holidaysOf, type Weekday, weekdayOf } from './calendar.ts';
import { DAY, holdsMinute, type MinuteRange, type MinuteSet, minutesOf } from './minutes.ts';

const TIME = /^(?:[01]\d|2[0-3]):[0-5]\d$/;
const time = z.string().regex(TIME, 'Write a time as 08:30.');

export const periodSchema = z.strictObject({
  from: time,
  /** `24:00` is the end of the day; at or before `from` it is on the next day. */
  to: z.string().regex(/^(?:(?:[01]\d|2[0-3]):[0-5]\d|24:00)$/, 'Write a time as 17:00, or 24:00.'),
});
export type Period = z.infer<typeof periodSchema>;

export const scheduleSchema = z.strictObject({
  id: z.string().min(1).max(40),
  name: z.string().trim().min(1).max(120),
  periods: z.array(periodSchema.extend({ days: z.array(z.number().int().min(1).max(7)).min(1).max(7) })).max(60),
  /** What holds of periods that begin on a holiday: those of the day of the week, or these; none where nothing holds. */
  onHolidays: z.union([z.literal('as other days'), z.array(periodSchema).max(20)]).default([]),
});
export type Schedule = z.infer<typeof scheduleSchema>;

/** Always, holidays and all. */
export const ALWAYS: Schedule = {
  id: 'always',
  name: 'Always',
  periods: [{ days: [1, 2, 3, 4, 5, 6, 7], from: '00:00', to: '24:00' }],
  onHolidays: 'as other days',
};

const minuteOf = (text: string): number => Number(text.slice(0, 2)) * 60 + Number(text.slice(3));

/** The kind of a day, as far as a schedule tells days apart. */
export interface DayKind {
  weekday: Weekday;
  isHoliday: boolean;
}

/** What begins on a day of a kind: minutes from its beginning, up to 2880 where it runs into the next. */
function begunOn(schedule: Schedule, { weekday, isHoliday }: DayKind): MinuteRange[] {
  const periods: readonly Period[] =
    isHoliday && schedule.onHolidays !== 'as other days'
      ? schedule.onHolidays
      : schedule.periods.filter(({ days }) => days.includes(weekday));
  return periods.map((period) => {
    const [from, to] = [minuteOf(period.from), minuteOf(period.to)];
    return { from, to: to <= from ? to + DAY : to };
  });
}

/** The minutes of a day on which a schedule holds, by what the day is and what the one before was. */
export function minutesOn(schedule: Schedule, before: DayKind, day: DayKind): MinuteRange[] {
  const carried = begunOn(schedule, before).map(({ to }) => ({ from: 0, to: Math.max(0, to - DAY) }));
  const own = begunOn(schedule, day).map(({ from, to }) => ({ from, to: Math.min(to, DAY) }));
  return minutesOf([...carried, ...own]);
}

/** The kinds of the days of a site with these holidays. */
export function dayKinds(holidays: readonly Holiday[]): (day: number) => DayKind {
  const holidayOf = holidaysOf(holidays);
  return (day) => ({ weekday: weekdayOf(day), isHoliday: holidayOf(day) !== undefined });
}

/** The minutes of a day (counted from 1970-01-01) on which a schedule holds. */
export function minutesOfDay(schedule: Schedule, kindOf: (day: number) => DayKind, day: number): MinuteSet {
  return minutesOn(schedule, kindOf(day - 1), kindOf(day));
}

/** Whether a schedule holds at what the clocks on the wall show. */
export const holdsAt = (
  schedule: Schedule,
  kindOf: (day: number) => DayKind,
  { day, minute }: { day: number; minute: number },
): boolean => holdsMinute(minutesOfDay(schedule, kindOf, day), minute);
