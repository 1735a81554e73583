import { describe, expect, it } from 'vitest';
import { age, clock } from './time.ts';

describe('instants on the clocks of a site', () => {
  it.each([
    // IANA database: Oslo is UTC+1 in winter, Auckland UTC+13 in its summer.
    ['2020-11-24T23:30:05.999Z', 'Europe/Oslo', '25 Nov 2020, 00:30:05'],
    ['2020-11-24T23:30:05.000Z', 'Pacific/Auckland', '25 Nov 2020, 12:30:05'],
    ['2020-11-24T23:30:05.000Z', 'UTC', '24 Nov 2020, 23:30:05'],
  ])('%s in %s is %s', (instant, zone, words) => expect(clock(instant, zone)).toBe(words));

  it('of today the time is enough', () => {
    const now = new Date();
    expect(clock(now.toISOString(), 'UTC')).toBe(now.toISOString().slice(11, 19));
  });

  it.each([
    [4000, '4 s ago'],
    [-3000, '0 s ago'],
    [200_000, '3 min ago'],
    [3_600_000, '24 Nov 2020, 22:30:05'],
  ])('%i ms ago reads %s', (before, words) => {
    const now = Date.parse('2020-11-24T23:30:05.000Z');
    expect(age(new Date(now - before).toISOString(), now, 'UTC')).toBe(words);
  });
});
