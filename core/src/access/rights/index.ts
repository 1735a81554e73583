/** Who may pass which doors, and when: groups, what a controller makes of them, weeks, what a change does, what is proven. */
export {
  type Change,
  differences,
  eachDifference,
  firstOf,
  type Stretch,
  type Subject,
  stretchesInWords,
} from './difference.ts';
export {
  type AccessGroup,
  accessGroupSchema,
  type Calendar,
  calendarSchema,
  type GuardedDoor,
  guardedDoorSchema,
  openedBy,
  type Rights,
  WAYS,
  type Way,
  waySchema,
} from './groups.ts';
export { type Carrier, EVERYBODY, type Guarding, type Passing, passages, type Standing } from './passage.ts';
export { type AccessAssertion, accessAssertionSchema, type Broken, check, type Person } from './proof.ts';
export { type WeekDay, weekOf } from './week.ts';
export { dayName, daysInWords, minutesInWords, scheduleInWords, wallInWords } from './words.ts';
