import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { beginningOf, dayOf, endOf, inSiteDays, lastDayBefore, momentWithZone } from './siteDays.ts';

describe('days of a site', () => {
  it.each([
    // IANA database: Oslo is UTC+2 in summer and UTC+1 in winter, Auckland UTC+12 and +13, Honolulu UTC-10 all year.
    ['2026-06-30', 'Europe/Oslo', '2026-06-29T22:00:00.000Z', '2026-06-30T22:00:00.000Z'],
    ['2026-12-31', 'Europe/Oslo', '2026-12-30T23:00:00.000Z', '2026-12-31T23:00:00.000Z'],
    ['2026-06-30', 'Pacific/Auckland', '2026-06-29T12:00:00.000Z', '2026-06-30T12:00:00.000Z'],
    ['2026-06-30', 'Pacific/Honolulu', '2026-06-30T10:00:00.000Z', '2026-07-01T10:00:00.000Z'],
    // The days on which the clocks change have 23 and 25 hours.
    ['2026-03-29', 'Europe/Oslo', '2026-03-28T23:00:00.000Z', '2026-03-29T22:00:00.000Z'],
    ['2026-10-25', 'Europe/Oslo', '2026-10-24T22:00:00.000Z', '2026-10-25T23:00:00.000Z'],
    // Sao Paulo left out the midnight of 4 November 2018: its day began at 01:00.
    ['2018-11-04', 'America/Sao_Paulo', '2018-11-04T03:00:00.000Z', '2018-11-05T02:00:00.000Z'],
    ['2026-06-30', 'UTC', '2026-06-30T00:00:00.000Z', '2026-07-01T00:00:00.000Z'],
  ])('%s in %s goes from %s to %s', (day, zone, begins, ends) => {
    expect([beginningOf(day, zone), endOf(day, zone)]).toEqual([begins, ends]);
    expect([dayOf(begins, zone), lastDayBefore(ends, zone)]).toEqual([day, day]);
  });

  it('come back as they went in, and begin and end where Intl has that day, on any day in any zone', () => {
    const zones = Intl.supportedValuesOf('timeZone');
    const day = fc.date({ min: new Date('2000-01-02'), max: new Date('2037-12-30'), noInvalidDate: true });
    fc.assert(
      fc.property(day, fc.constantFrom(...zones), (date, zone) => {
        const text = date.toISOString().slice(0, 10);
        // A day that a zone left out as a whole, on crossing the date line, is none.
        const byIntl = (instant: string, more: number) =>
          new Intl.DateTimeFormat('en-CA', { timeZone: zone, dateStyle: 'short' }).format(Date.parse(instant) + more);
        const [begins, ends] = [beginningOf(text, zone)!, endOf(text, zone)!];
        if (begins === ends) return;
        expect([byIntl(begins, 0), byIntl(ends, -1)]).toEqual([text, text]);
        expect([dayOf(begins, zone), lastDayBefore(ends, zone)]).toEqual([text, text]);
      }),
      { numRuns: 300 },
    );
  });

  it('no day is no instant', () => {
    expect([beginningOf('', 'UTC'), endOf('', 'UTC'), dayOf(null, 'UTC'), lastDayBefore(null, 'UTC')]).toEqual([
      null,
      null,
      '',
      '',
    ]);
  });

  it('a moment is told with the clocks that it is told by', () => {
    expect(momentWithZone('2026-11-25T23:05:00.000Z', 'Europe/Oslo')).toBe('26 Nov 2026, 00:05 Europe/Oslo');
    expect(momentWithZone('2026-06-30T11:59:00.000Z', 'Pacific/Auckland')).toBe('30 Jun 2026, 23:59 Pacific/Auckland');
  });

  it.each([
    ['The card was valid until 2026-06-30T22:00:00.000Z.', 'The card was valid through 2026-06-30.'],
    ['The card is valid only from 2026-11-30T23:00:00.000Z.', 'The card is valid only from 2026-12-01.'],
    // Kept from before days were the site's: no midnight there.
    ['The card was valid until 2026-06-30T00:00:00.000Z.', 'The card was valid until 30 Jun 2026, 02:00 Europe/Oslo.'],
    ['Number 5 is not on file.', 'Number 5 is not on file.'],
  ])('%s reads in Oslo: %s', (sentence, words) => expect(inSiteDays(sentence, 'Europe/Oslo')).toBe(words));
});
