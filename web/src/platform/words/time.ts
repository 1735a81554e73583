/** Instants as people read them. */
import { differenceInSeconds, format, isToday } from 'date-fns';

/** `24 Nov, 14:32:07`, without the date when it is today. */
export function clock(instant: string): string {
  const date = new Date(instant);
  return format(date, isToday(date) ? 'HH:mm:ss' : 'd MMM, HH:mm:ss');
}

/** `4 s ago`, `3 min ago`, then the clock. */
export function age(instant: string, now: number): string {
  const seconds = Math.max(0, differenceInSeconds(now, new Date(instant)));
  if (seconds < 60) return `${seconds} s ago`;
  if (seconds < 3600) return `${Math.floor(seconds / 60)} min ago`;
  return clock(instant);
}
