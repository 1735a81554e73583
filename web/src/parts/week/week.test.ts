/** The geometry of a week, and its words. */
import { weekOf } from '@rawbits/core/access/rights';
import { ALWAYS, dayOf, type Schedule } from '@rawbits/core/access/schedule';
import { describe, expect, it } from 'vitest';
import { bandInWords, HEAD, LABELS, layOutWeek, placeAt, placeInWords, textureOf, xAt } from './geometry.ts';

const NIGHTS: Schedule = {
  id: 'n',
  name: 'Nights',
  periods: [{ days: [5], from: '22:00', to: '06:00' }],
  onHolidays: [],
};
const calendar = { zone: 'Europe/Oslo', holidays: [{ name: 'Lantern night', date: '2026-10-24', yearly: false }] };
// The clocks are set back in the night to Sunday the 25th.
const week = (schedule: Schedule) => weekOf([schedule], calendar, dayOf('2026-10-19'));
const bands = [
  { name: 'Nights', days: week(NIGHTS) },
  { name: 'Always', days: week(ALWAYS) },
];

describe('a week', () => {
  const geometry = layOutWeek(bands, LABELS + 1440);

  it('is a row a day and a lane a band; a minute is where its hour says', () => {
    expect(geometry.rows.map(({ label }) => label)).toEqual([
      'Mon 19 Oct',
      'Tue 20 Oct',
      'Wed 21 Oct',
      'Thu 22 Oct',
      'Fri 23 Oct',
      'Sat 24 Oct',
      'Sun 25 Oct',
    ]);
    const [friday, saturday, sunday] = geometry.rows.slice(4);
    expect(friday!.bars.filter(({ band }) => band === 0)).toMatchObject([{ x: LABELS + 1320, width: 120 }]);
    expect(saturday!.bars.filter(({ band }) => band === 0)).toMatchObject([{ x: LABELS, width: 360 }]);
    expect(saturday!.note).toBe('Lantern night');
    expect(sunday!.twice).toMatchObject([{ x: LABELS + 120, width: 60 }]);
    const lanes = new Set(geometry.rows[4]!.bars.map(({ y }) => y));
    expect(lanes.size).toBe(2);
    expect(geometry.height).toBe(HEAD + 7 * geometry.rows[0]!.height);
    expect(geometry.hours).toHaveLength(25);
  });

  it('has fewer hours named where they would touch', () => {
    const labels = layOutWeek(bands, LABELS + 400).hours;
    const gaps = labels.slice(1).map(({ x }, i) => x - labels[i]!.x);
    expect(Math.min(...gaps)).toBeGreaterThanOrEqual(30);
  });

  it('every place is found again where it is drawn', () => {
    for (const [day, row] of geometry.rows.entries())
      for (const minute of [0, 1, 719, 1439])
        expect(placeAt(geometry, xAt(geometry, minute) + 0.5, row.y + row.height / 2)).toEqual({ day, minute });
    expect(placeAt(geometry, -50, -50)).toEqual({ day: 0, minute: 0 });
    expect(placeAt(geometry, 10_000, 10_000)).toEqual({ day: 6, minute: 1439 });
  });

  it('is told in words: a place, and a band', () => {
    expect(placeInWords(bands, { day: 5, minute: 90 })).toBe(
      'Saturday 2026-10-24 01:30, Lantern night: Nights, Always',
    );
    expect(placeInWords(bands, { day: 6, minute: 150 })).toBe(
      'Sunday 2026-10-25 02:30 (the clocks show this time twice): Always',
    );
    expect(placeInWords(bands.slice(0, 1), { day: 0, minute: 0 })).toBe('Monday 2026-10-19 00:00: nothing holds');
    expect(bandInWords(bands[0]!)).toContain('Friday 22:00–24:00; Saturday (Lantern night) 00:00–06:00; Sunday never.');
  });

  it('bands next to one another differ by texture', () => {
    for (let band = 0; band < 10; band++) expect(textureOf(band)).not.toBe(textureOf(band + 1));
  });
});
