/** Schedules, holidays, and the clocks on the wall. */
export { dateOf, dayOf, type Holiday, holidaySchema, holidaysOf, type Weekday, weekdayOf } from './calendar.ts';
export {
  bothOf,
  DAY,
  holdsMinute,
  type MinuteRange,
  type MinuteSet,
  minutesOf,
  timeInWords,
  without,
} from './minutes.ts';
export {
  ALWAYS,
  type DayKind,
  dayKinds,
  holdsAt,
  minutesOfDay,
  minutesOn,
  type Period,
  periodSchema,
  type Schedule,
  scheduleSchema,
} from './schedule.ts';
export { instantShowing, type WallTime, wallClock } from './zone.ts';
