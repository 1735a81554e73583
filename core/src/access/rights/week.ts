/** A week as it is drawn: for each day the minutes on which something holds, and what the clocks do on it. */
import {
  DAY,
  dateOf,
  dayKinds,
  holidaysOf,
  type MinuteRange,
  minutesOf,
  minutesOfDay,
  type Schedule,
  type Weekday,
  wallClock,
  weekdayOf,
} from '../schedule/index.ts';
import type { Calendar } from './groups.ts';

export interface WeekDay {
  date: string;
  weekday: Weekday;
  /** The name of the holiday that it is. */
  holiday: string | null;
  holds: MinuteRange[];
  /** What the clocks show twice on this day, and what they leave out. */
  twice: MinuteRange[];
  never: MinuteRange[];
}

const QUARTER = 15;
/** No zone is further from UTC than this, in minutes. */
const FURTHEST = 15 * 60;

/** Seven days from one on (counted from 1970-01-01), on which any of some schedules holds. */
export function weekOf(schedules: readonly Schedule[], { zone, holidays }: Calendar, first: number): WeekDay[] {
  const kindOf = dayKinds(holidays);
  const holidayOf = holidaysOf(holidays);
  const shown = clockChanges(zone, first);
  return Array.from({ length: 7 }, (_, i) => {
    const day = first + i;
    return {
      date: dateOf(day),
      weekday: weekdayOf(day),
      holiday: holidayOf(day)?.name ?? null,
      holds: minutesOf(schedules.flatMap((schedule) => minutesOfDay(schedule, kindOf, day))),
      ...shown(day),
    };
  });
}

/** How often the clocks show each quarter of an hour of the days of a week: counted, as they are changed by quarters. */
function clockChanges(zone: string, first: number): (day: number) => Pick<WeekDay, 'twice' | 'never'> {
  const clock = wallClock(zone);
  const times = new Map<number, number>();
  for (let minute = first * DAY - FURTHEST; minute < (first + 7) * DAY + FURTHEST; minute += QUARTER) {
    const shown = clock(minute * 60_000);
    const quarter = shown.day * DAY + shown.minute;
    times.set(quarter, (times.get(quarter) ?? 0) + 1);
  }
  return (day) => {
    const of = (isSo: (shown: number) => boolean): MinuteRange[] =>
      minutesOf(
        Array.from({ length: DAY / QUARTER }, (_, i) => i * QUARTER).flatMap((from) =>
          isSo(times.get(day * DAY + from) ?? 0) ? [{ from, to: from + QUARTER }] : [],
        ),
      );
    return { twice: of((shown) => shown > 1), never: of((shown) => shown === 0) };
  };
}
