/** The parts of what does not belong, each by itself: places with misses, prints of numbers, mends, how cards may be chosen. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Bits } from '../../bits/index.ts';
import { plainReadings } from '../cards/readings.ts';
import { specimensFrom } from '../cards/specimen.ts';
import { byPlace } from './byPlace.ts';
import { type Cards, choiceBits, placesWithMisses } from './cases.ts';
import { slipBits } from './edits.ts';
import { mended, printOfNumber } from './mend.ts';

const cardsOf = (rows: readonly [bits: string, printed: string][]): Cards => {
  const specimens = specimensFrom(rows.map(([bits, printed]) => ({ bits, printed })));
  const [reading] = plainReadings(specimens);
  const numbers = reading!.numbers as bigint[];
  return { specimens, reading: reading!, numbers, length: specimens[0]!.bits.length };
};
const binary = (number: number, width: number) => number.toString(2).padStart(width, '0');

describe('places with misses', () => {
  it('are found wherever the number stands, with just the cards that do not have it there', () => {
    const some = fc.record({
      numbers: fc.uniqueArray(fc.integer({ min: 512, max: 1023 }), { minLength: 6, maxLength: 10 }),
      before: fc.integer({ min: 0, max: 5 }),
      cut: fc.integer({ min: 0, max: 9 }),
      wrong: fc.integer({ min: 512, max: 1023 }),
    });
    fc.assert(
      fc.property(some, ({ numbers, before, cut, wrong }) => {
        fc.pre(!numbers.includes(wrong));
        // With a cut the number is in two pieces, as sent, with a bit between them that is the same on all.
        const read = (n: number) => {
          const text = binary(n, 10);
          return `${'1'.repeat(before)}${text.slice(0, cut)}${cut > 0 ? '0' : ''}${text.slice(cut)}11`;
        };
        const rows = numbers.map((n, i): [string, string] => [read(n), String(i === 1 ? wrong : n)]);
        const from = before + 1;
        const expected = Array.from({ length: 10 }, (_, k) => {
          const place = 9 - k;
          return from + place + (cut > 0 && place >= cut ? 1 : 0);
        });
        const places = placesWithMisses(cardsOf(rows));
        const found = places.find(({ positions }) => positions.join() === expected.join());
        // Two pieces are looked for where no one piece has nearly all of them, as few near numbers can by chance.
        const isOnePiece = ({ positions }: { positions: number[] }) => positions[0]! - positions.at(-1)! === 9;
        if (found || cut === 0) expect(found?.misses).toEqual([1]);
        else expect(places.some((place) => isOnePiece(place) && place.misses.length <= numbers.length / 3)).toBe(true);
      }),
    );
  });

  it('of an exchanged pair give the exchange, of a complemented read the inversion, of a slip the print', () => {
    const numbers = [600, 611, 633, 700, 815, 900];
    const kinds = (spoil: (rows: [string, string][]) => void) => {
      const rows = numbers.map((n): [string, string] => [`10${binary(n, 10)}`, String(n)]);
      spoil(rows);
      const cards = cardsOf(rows);
      return placesWithMisses(cards)
        .flatMap((place) => byPlace(cards, place))
        .map(({ kind, at, mend }) => ({ kind, at, mend: mend.map(({ row: _, ...change }) => change) }));
    };
    expect(kinds((rows) => ([rows[1]![1], rows[4]![1]] = [rows[4]![1], rows[1]![1]]))).toContainEqual({
      kind: 'swapped pair',
      at: [1, 4],
      mend: [{ printed: '611' }, { printed: '815' }],
    });
    const right = `10${binary(700, 10)}`;
    const inverse = Bits.fromBinary(right).invert().toBinary();
    expect(kinds((rows) => (rows[3]![0] = inverse))).toContainEqual({
      kind: 'inverted read',
      at: [3],
      mend: [{ bits: right }],
    });
    expect(kinds((rows) => (rows[2]![1] = '663'))).toContainEqual({
      kind: 'mistyped print',
      at: [2],
      mend: [{ printed: '633' }],
    });
  });
});

describe('the print that a number has', () => {
  it.each([
    ['118406', '118407', '118407'],
    ['00412', '417', '00417'],
    ['071,09034', '9035', '071,09035'],
    ['71-9034', '9035', '71-9035'],
    ['04A23B1C', BigInt(0x04a23b1d).toString(), '04A23B1D'],
  ])('like %s, of %s is %s', (like, number, expected) => {
    const [reading] = plainReadings(specimensFrom([{ bits: '01', printed: like }]));
    expect(printOfNumber(reading!, like, BigInt(number))).toBe(expected);
  });
});

describe('a mend', () => {
  const specimens = specimensFrom(['00', '01', '10', '11'].map((bits, i) => ({ bits, printed: String(i + 1) })));
  it('changes what it names, and leaves out what is set aside or gets a group of its own', () => {
    const after = mended(
      specimens,
      [
        { row: 1, printed: '9' },
        { row: 2, bits: '11' },
        { row: 3, aside: true },
        { row: 4, group: 'x' },
      ],
      0,
    );
    expect(after.map(({ bits, prints }) => [bits.toBinary(), prints[0]!.text])).toEqual([
      ['00', '9'],
      ['11', '2'],
    ]);
    expect(specimens[0]!.prints[0]!.text).toBe('1');
  });
});

describe('how cards may be chosen', () => {
  it('in bits: the logarithm of the ways, or less for a run at either end', () => {
    expect(choiceBits(10, [3])).toBeCloseTo(Math.log2(10));
    expect(choiceBits(10, [3, 7])).toBeCloseTo(Math.log2(45));
    expect(choiceBits(10, [2, 3, 4])).toBeCloseTo(Math.log2(120));
    for (const end of [
      [0, 1, 2, 3, 4],
      [5, 6, 7, 8, 9],
    ])
      expect(choiceBits(10, end)).toBeCloseTo(1 + Math.log2(10));
  });

  it('a slip costs the same in either direction where it is one digit or an exchange', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1000, max: 9999 }), fc.nat(3), fc.integer({ min: 1, max: 9 }), (n, at, add) => {
        const digits = [...String(n)];
        digits[at] = String((Number(digits[at]) + add) % 10);
        expect(slipBits(String(n), digits.join(''))).toBe(slipBits(digits.join(''), String(n)));
        expect(slipBits(String(n), digits.join(''))).toBeLessThan(
          slipBits(String(n), [...String(n)].map((d) => (Number(d) + 5) % 10).join('')),
        );
      }),
    );
  });
});
