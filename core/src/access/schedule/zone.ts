/**
 * What the clocks on the wall show, by the name of a time zone (IANA, through ECMA-402, which every place that Raw Bits runs
 * in has). The language tells the parts of an instant slowly, so the offset is asked once a quarter of an hour and kept: clocks
 * are changed on a quarter of an hour, in every zone of today.
 */
import { fail } from '../../failure/index.ts';

export interface WallTime {
  /** Days since 1970-01-01. */
  day: number;
  /** Minutes of the day, 0 … 1439. */
  minute: number;
}

const QUARTER_MS = 900_000;
/** So many quarters of an hour are kept a zone; then it is begun anew. */
const MOST_KEPT = 100_000;

/** The clocks of a zone; throws `time-zone` where there is none of that name. */
export function wallClock(zone: string): (atMs: number) => WallTime {
  let format: Intl.DateTimeFormat;
  try {
    format = new Intl.DateTimeFormat('en-CA', {
      timeZone: zone,
      hourCycle: 'h23',
      calendar: 'iso8601',
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit',
      second: '2-digit',
    });
  } catch {
    return fail('time-zone', `There is no time zone "${zone}".`, undefined, 'Name one as Europe/Oslo.');
  }
  const offsets = new Map<number, number>();
  return (atMs) => {
    const quarter = Math.floor(atMs / QUARTER_MS);
    let offset = offsets.get(quarter);
    if (offset === undefined) {
      if (offsets.size >= MOST_KEPT) offsets.clear();
      offset = offsetAt(format, quarter * QUARTER_MS);
      offsets.set(quarter, offset);
    }
    const local = Math.floor((atMs + offset) / 60_000);
    const day = Math.floor(local / 1440);
    return { day, minute: local - day * 1440 };
  };
}

/** By how much the clocks are ahead of UTC, in milliseconds. */
function offsetAt(format: Intl.DateTimeFormat, atMs: number): number {
  const parts: Record<string, number> = {};
  for (const { type, value } of format.formatToParts(atMs)) parts[type] = Number(value);
  const { year, month, day, hour, minute, second } = parts;
  return Date.UTC(year!, month! - 1, day!, hour!, minute!, second!) - atMs;
}

/**
 * The first instant at which the clocks of a zone show a minute of a day, in milliseconds since 1970; undefined where they
 * leave it out. Throws `time-zone` where there is none of that name.
 */
export function instantShowing(zone: string, { day, minute }: WallTime): number | undefined {
  const clock = wallClock(zone);
  const wanted = (day * 1440 + minute) * 60_000;
  // No zone is further from UTC than fifteen hours, and none changes its clocks by less than a quarter of one.
  for (let offset = 15 * 3_600_000; offset >= -15 * 3_600_000; offset -= QUARTER_MS) {
    const shown = clock(wanted - offset);
    if (shown.day === day && shown.minute === minute) return wanted - offset;
  }
  return undefined;
}
