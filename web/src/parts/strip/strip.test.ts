/** Where the cells of a strip stand, what they show, and where the keys lead. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cardsInCell, cellAfter, cellAt, layOutStrip, type StripCard, type StripStanding } from './geometry.ts';

const cards = (count: number, standing: (i: number) => StripStanding = () => 'settled'): StripCard[] =>
  Array.from({ length: count }, (_, i) => ({
    number: String(400 + i),
    standing: standing(i),
    ...(i === 7 && { row: 1 }),
  }));

describe('a strip', () => {
  it('has a cell a number in rows of a hundred, each with its first number', () => {
    const { cells, rows, height } = layOutStrip(cards(150), 1000);
    expect([cells.length, height, rows]).toEqual([
      150,
      40,
      [
        { number: '400', y: 0 },
        { number: '500', y: 20 },
      ],
    ]);
    expect(cells[149]).toMatchObject({ from: 149, to: 149, standing: 'settled', isRead: false });
    expect(cells[7]!.isRead).toBe(true);
  });

  it('of many has a cell for several, which shows the least that is known of them', () => {
    const { cells } = layOutStrip(
      cards(1000, (i) => (i === 12 ? 'open' : i === 18 ? 'likely' : 'proven')),
      1000,
    );
    expect([cardsInCell(1000), cells.length]).toEqual([5, 200]);
    expect(cells.slice(0, 5).map(({ standing }) => standing)).toEqual(['proven', 'proven', 'open', 'likely', 'proven']);
    expect(cells[1]).toMatchObject({ from: 5, to: 9, isRead: true });
  });

  it('every card stands in one cell, and every cell is found where it stands', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1400 }), fc.integer({ min: 200, max: 2000 }), (count, width) => {
        const strip = layOutStrip(cards(count), width);
        expect(
          strip.cells.flatMap(({ from, to }) => Array.from({ length: to - from + 1 }, (_, i) => from + i)),
        ).toEqual(Array.from({ length: count }, (_, i) => i));
        strip.cells.forEach(({ x, y }, i) => {
          expect(cellAt(strip, x + 1, y + 10)).toBe(i);
        });
        expect(cellAt(strip, 5, 5)).toBeUndefined();
        expect(cellAt(strip, strip.width + 200, 5)).toBeUndefined();
      }),
      { numRuns: 40 },
    );
  });

  it.each([
    ['ArrowRight', 5, 6],
    ['ArrowLeft', 0, 0],
    ['ArrowDown', 5, 105],
    ['ArrowDown', 60, 60],
    ['ArrowUp', 105, 5],
    ['Home', 90, 0],
    ['End', 3, 149],
    ['Tab', 3, undefined],
  ])('%s leads from %i to %s', (key, from, to) => {
    expect(cellAfter(key, from, 150)).toBe(to);
  });
});
