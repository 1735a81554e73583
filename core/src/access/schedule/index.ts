/** Schedules, holidays, the clocks on the wall, access groups, and what is proven of them. */
export { dateOf, dayOf, type Holiday, holidaySchema, holidaysOf, type Weekday, weekdayOf } from './calendar.ts';
export { bothOf, holdsMinute, type MinuteRange, type MinuteSet, minutesOf, timeInWords, without } from './minutes.ts';
export {
  type AccessAssertion,
  type AccessGroup,
  accessAssertionSchema,
  accessGroupSchema,
  type Broken,
  check,
  type Person,
  type Rights,
  type Way,
  waySchema,
} from './proof.ts';
export {
  ALWAYS,
  type DayKind,
  dayKinds,
  holdsAt,
  minutesOfDay,
  minutesOn,
  type Period,
  type Schedule,
  scheduleSchema,
} from './schedule.ts';
export { type WallTime, wallClock } from './zone.ts';
