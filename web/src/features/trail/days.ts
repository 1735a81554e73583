/** Rows under the day on which they happened, as the site has its days. */
import { dayOf } from '../../platform/words/siteDays.ts';

export interface Day<T> {
  /** `2026-06-30` */
  day: string;
  rows: T[];
}

/** Rows come newest first, and so do their days. */
export function byDay<T extends { at: string }>(rows: readonly T[], zone: string): Day<T>[] {
  const days: Day<T>[] = [];
  for (const row of rows) {
    const day = dayOf(row.at, zone);
    const last = days.at(-1);
    if (last?.day === day) last.rows.push(row);
    else days.push({ day, rows: [row] });
  }
  return days;
}

/** `Tuesday, 30 June 2026` */
export const dayInWords = (day: string): string =>
  new Intl.DateTimeFormat('en-GB', {
    timeZone: 'UTC',
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    year: 'numeric',
  }).format(new Date(`${day}T12:00:00Z`));

/** `14:32:07`, by the site's clocks. */
export const timeOfDay = (instant: string, zone: string): string =>
  new Intl.DateTimeFormat('en-GB', { timeZone: zone, timeStyle: 'medium' }).format(new Date(instant));
