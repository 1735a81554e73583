/** The week that it is, by a schedule, and a holiday after a usual day under it. */
import { type Calendar, weekOf } from '@rawbits/core/access/rights';
import { minutesOn, type Schedule, wallClock, weekdayOf } from '@rawbits/core/access/schedule';
import type { Day } from '../../../parts/week/geometry.ts';

export function weekWithHoliday(schedule: Schedule, calendar: Calendar, nowMs = Date.now()): Day[] {
  const today = wallClock(calendar.zone)(nowMs).day;
  const wednesday = { weekday: 3, isHoliday: true } as const;
  const holiday: Day = {
    date: '',
    weekday: 3,
    holiday: 'a holiday',
    // What runs on from the day before is not of the holiday.
    holds: minutesOn(schedule, { ...wednesday, weekday: 2 }, wednesday),
    twice: [],
    never: [],
  };
  return [...weekOf([schedule], calendar, today - (weekdayOf(today) - 1)), holiday];
}
