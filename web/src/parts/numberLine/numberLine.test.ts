/** Where boxes and cards stand on a line of numbers, what a part of it says, and where zooming leads. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type LineMap, layOutLine, numbersOf, panned, partAt, partInWords, roundAbout, zoomed } from './geometry.ts';

const map = (over: Partial<LineMap> = {}): LineMap => ({
  from: '1000',
  to: '1199',
  boxes: [
    { id: 'a', name: 'White', first: '1010', last: '1059' },
    { id: 'b', name: 'Grey', first: '1050', last: '1099' },
    { id: 'c', name: 'Long', first: '900', last: '1009' },
  ],
  reserved: [{ from: '1150', to: '1159', note: 'divers' }],
  parts: [
    { at: 1, states: { 'in stock': 5, active: 5 } },
    { at: 7, states: { lost: 1 } },
  ],
  count: 20,
  size: '10',
  ...over,
});

describe('a line of numbers', () => {
  it('has its boxes over their numbers, in lanes where they overlap, cut where they go on', () => {
    const { bars, width } = layOutLine(map(), 1000);
    const [long, white, grey] = bars;
    expect([white!.x, white!.width]).toEqual([50, 250]);
    expect(grey!.y).toBeLessThan(white!.y);
    expect(long).toMatchObject({ x: 0, width: 50, cutLeft: true, cutRight: false, y: white!.y });
    expect(width).toBe(1000);
  });

  it('has columns as high as the share that is taken, held below stock, a single card still to be seen', () => {
    const { columns, baseline } = layOutLine(map(), 1000);
    const [full, one] = columns;
    expect(full!.pieces.map(({ fate }) => fate)).toEqual(['held', 'in stock']);
    expect(full!.pieces[0]!.y + full!.pieces[0]!.height).toBe(baseline);
    expect(full!.pieces[1]!.y + full!.pieces[1]!.height).toBe(full!.pieces[0]!.y);
    expect(one!.pieces).toMatchObject([{ fate: 'out' }]);
    expect(
      layOutLine(map({ parts: [{ at: 0, states: { active: 1 } }], size: '100000' }), 900).columns[0]!.pieces[0]!.height,
    ).toBe(3);
  });

  it('has as many numbers under it as there is room for, its ends always', () => {
    const under = (width: number) => layOutLine(map(), width).ticks.map(({ number }) => number);
    expect(under(1000)).toEqual(['1000', '1039', '1079', '1119', '1159', '1199']);
    expect([under(247), under(160)]).toEqual([
      ['1000', '1199'],
      ['1000', '1199'],
    ]);
  });

  it('says what a part of it is', () => {
    expect(partInWords(map(), 1)).toBe('1010 to 1019: 5 in stock, 5 active; box White');
    expect(partInWords(map(), 5)).toBe('1050 to 1059: nothing on file; box White; box Grey');
    expect(partInWords(map(), 15)).toBe('1150 to 1159: nothing on file; reserved: divers');
    expect(partInWords(map({ size: '1', count: 200, parts: [{ at: 3, states: { lost: 1 } }] }), 3)).toBe(
      'Number 1003: lost; box Long',
    );
  });

  it('every place belongs to the part that is drawn there', () => {
    const { columns, width } = layOutLine(map(), 1000);
    for (const { at, x, width: w } of columns) expect(partAt(map(), width, x + w / 2)).toBe(at);
    expect([partAt(map(), width, -5), partAt(map(), width, 5000)]).toEqual([0, 19]);
    expect(numbersOf(map({ to: '1194' }), 19)).toEqual({ from: 1190n, to: 1194n });
  });

  it('zoomed or moved it stays within the format, and what it is zoomed about stays in sight', () => {
    const most = fc.bigInt({ min: 0n, max: 2n ** 56n });
    fc.assert(
      fc.property(
        most,
        fc.bigInt({ min: 0n, max: 2n ** 57n }),
        fc.bigInt({ min: 0n, max: 2n ** 57n }),
        fc.constantFrom(0.5, 0.8, 1.25, 2),
        fc.constantFrom(-0.9, -0.5, 0.5, 0.9),
        (top, a, b, by, share) => {
          const [low, high] = [a % (top + 1n), b % (top + 1n)].sort((x, y) => (x < y ? -1 : 1)) as [bigint, bigint];
          const range = { from: low.toString(), to: high.toString() };
          const about = (low + high) / 2n;
          const next = zoomed(range, by, about, top);
          expect(
            BigInt(next.from) >= 0n && BigInt(next.from) <= about && about <= BigInt(next.to) && BigInt(next.to) <= top,
          ).toBe(true);
          const moved = panned(range, share, top);
          expect(BigInt(moved.from) >= 0n && BigInt(moved.to) <= top).toBe(true);
          expect(BigInt(moved.to) - BigInt(moved.from)).toBe(high - low);
        },
      ),
    );
    expect(zoomed({ from: '0', to: '65535' }, 2, 100n, 65_535n)).toEqual({ from: '0', to: '65535' });
  });

  it('begins about what is there, in round numbers', () => {
    expect(roundAbout('10901', '10950', 65_535n)).toEqual({ from: '10900', to: '10959' });
    expect(roundAbout('640', '10950', 65_535n)).toEqual({ from: '0', to: '10999' });
    expect(roundAbout('65000', '65535', 65_535n)).toEqual({ from: '65000', to: '65535' });
  });
});
