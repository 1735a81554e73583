/**
 * Days of a site, whatever zone the browser is in. A card is valid from the beginning of its first day through the end of
 * its last, as the site's clocks have them; it is kept as two instants, of which the second is the first one past the end.
 * Days and zones as Temporal has them (ECMAScript proposal, Stage 4) over the IANA time zone database.
 */
import { Temporal } from 'temporal-polyfill';

const zoned = (instant: string, zone: string) => Temporal.Instant.from(instant).toZonedDateTimeISO(zone);

/** The instant at which a day (`2026-06-30`) begins; null for none. A day whose midnight is left out begins after it. */
export const beginningOf = (day: string, zone: string): string | null =>
  day === '' ? null : instantText(Temporal.PlainDate.from(day).toZonedDateTime(zone));

/** The first instant past a day; null for none. */
export const endOf = (day: string, zone: string): string | null =>
  day === '' ? null : instantText(Temporal.PlainDate.from(day).add({ days: 1 }).toZonedDateTime(zone));

const instantText = (at: Temporal.ZonedDateTime): string => new Date(at.epochMilliseconds).toISOString();

/** The day of an instant; empty for none. */
export const dayOf = (instant: string | null, zone: string): string =>
  instant === null ? '' : zoned(instant, zone).toPlainDate().toString();

/** The last day before an instant past its end; empty for none. */
export const lastDayBefore = (instant: string | null, zone: string): string =>
  instant === null ? '' : zoned(instant, zone).subtract({ milliseconds: 1 }).toPlainDate().toString();

/** The last of so many days, today being the first. */
export const lastDayOf = (days: number, zone: string, now = new Date().toISOString()): string =>
  zoned(now, zone)
    .toPlainDate()
    .add({ days: days - 1 })
    .toString();

/** Where the browser's clock is another than the site's, that is said beside a day. */
export const zoneHint = (zone: string): string | undefined =>
  Intl.DateTimeFormat().resolvedOptions().timeZone === zone ? undefined : `as days are in ${zone}`;

/** `25 Nov 2026, 20:10 Europe/Oslo`: an instant on a site's clocks, with which clocks those are. */
export function momentWithZone(instant: string, zone: string): string {
  const at = zoned(instant, zone);
  const month = at.toLocaleString('en-GB', { month: 'short' });
  const [hour, minute] = [at.hour, at.minute].map((n) => String(n).padStart(2, '0'));
  return `${at.day} ${month} ${at.year}, ${hour}:${minute} ${zone}`;
}

const INSTANT = /(\buntil )?(\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:[.]\d+)?Z)/g;

/**
 * A controller's own sentence, which knows instants only, with days of the site in their place: `until` the instant at which
 * a day begins is through the day before.
 */
export function inSiteDays(sentence: string, zone: string): string {
  return sentence.replace(INSTANT, (_, until: string | undefined, instant: string) => {
    const isMidnight = beginningOf(dayOf(instant, zone), zone) === new Date(instant).toISOString();
    if (!isMidnight) return `${until ?? ''}${momentWithZone(instant, zone)}`;
    return until ? `through ${lastDayBefore(instant, zone)}` : dayOf(instant, zone);
  });
}
