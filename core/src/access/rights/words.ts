/** Days, hours and schedules in words. */
import { dateOf, type MinuteSet, type Period, type Schedule, timeInWords, type WallTime } from '../schedule/index.ts';

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'] as const;
/** The name of a day of the week, Monday being 1. */
export const dayName = (weekday: number): string => DAYS[weekday - 1]!;
const short = (weekday: number): string => dayName(weekday).slice(0, 3);

/** `Tuesday 2026-12-01 21:04`. */
export const wallInWords = ({ day, minute }: WallTime): string =>
  `${DAYS[(((day + 3) % 7) + 7) % 7]} ${dateOf(day)} ${timeInWords(minute)}`;

/** `Mon–Fri, Sun`: days of the week (1 … 7, rising). */
export function daysInWords(days: readonly number[]): string {
  if (days.length === 7) return 'every day';
  const runs: number[][] = [];
  for (const day of days) {
    const last = runs.at(-1);
    if (last && last.at(-1) === day - 1) last.push(day);
    else runs.push([day]);
  }
  return runs
    .flatMap((run) => (run.length > 2 ? [`${short(run[0]!)}–${short(run.at(-1)!)}`] : run.map(short)))
    .join(', ');
}

/** `06:00–22:00, 23:00–24:00`; `all day`, or `never`. */
export function minutesInWords(set: MinuteSet): string {
  if (set.length === 0) return 'never';
  if (set.length === 1 && set[0]!.from === 0 && set[0]!.to === 1440) return 'all day';
  return set.map(({ from, to }) => `${timeInWords(from)}–${timeInWords(to)}`).join(', ');
}

const periodInWords = ({ from, to }: Period): string =>
  from === '00:00' && to === '24:00' ? 'all day' : `${from}–${to}`;

/** `Mon–Fri 06:00–22:00; not on holidays`. */
export function scheduleInWords({ periods, onHolidays }: Pick<Schedule, 'periods' | 'onHolidays'>): string {
  const usual = periods.map((period) => `${daysInWords([...period.days].sort())} ${periodInWords(period)}`);
  const holidays =
    onHolidays === 'as other days'
      ? 'holidays as other days'
      : onHolidays.length === 0
        ? 'not on holidays'
        : `on holidays ${onHolidays.map(periodInWords).join(', ')}`;
  return [...(usual.length === 0 ? ['on no day'] : usual), holidays].join('; ');
}
