import { expect, it } from 'vitest';
import { byDay } from './days.ts';

it('what happened stands under its days, as the site has them', () => {
  const rows = ['2026-06-30T22:30:00.000Z', '2026-06-30T21:30:00.000Z', '2026-06-29T10:00:00.000Z'].map((at) => ({
    at,
  }));
  expect(byDay(rows, 'Europe/Oslo').map(({ day, rows: { length } }) => [day, length])).toEqual([
    ['2026-07-01', 1],
    ['2026-06-30', 1],
    ['2026-06-29', 1],
  ]);
  expect(byDay(rows, 'UTC').map(({ day }) => day)).toEqual(['2026-06-30', '2026-06-29']);
});
