/** Instants as people read them, on the clocks of a site. */
import { differenceInSeconds } from 'date-fns';
import { Temporal } from 'temporal-polyfill';

/** `24 Nov, 14:32:07`, without the date when it is today there. */
export function clock(instant: string, zone: string): string {
  const at = Temporal.Instant.from(instant).toZonedDateTimeISO(zone);
  const time = at.toPlainTime().toString({ smallestUnit: 'second' });
  const today = Temporal.Now.plainDateISO(zone);
  return at.toPlainDate().equals(today)
    ? time
    : `${at.day} ${at.toLocaleString('en-GB', { month: 'short' })}${at.year === today.year ? '' : ` ${at.year}`}, ${time}`;
}

/** `4 s ago`, `3 min ago`, then the clock. */
export function age(instant: string, now: number, zone: string): string {
  const seconds = Math.max(0, differenceInSeconds(now, new Date(instant)));
  if (seconds < 60) return `${seconds} s ago`;
  if (seconds < 3600) return `${Math.floor(seconds / 60)} min ago`;
  return clock(instant, zone);
}
