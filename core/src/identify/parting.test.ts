/** The card that parts formats: whichever of them is right, its read and its print agree with that one alone. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Bits } from '../bits/index.ts';
import { catalogued } from '../catalogue/index.ts';
import { decode, encode } from '../codec/index.ts';
import { type Format, parseLayoutLine } from '../format/index.ts';
import { type Agreeing, partingCard } from './parting.ts';

const format = (line: string): Format => ({ ...catalogued('26-8-16')!, ...parseLayoutLine(line), id: line });
const of = (read: Bits, ...formats: Format[]): Agreeing[] =>
  formats.map((one) => ({
    format: one,
    values: decode(Bits.fromBinary(read.toBinary().padStart(one.bits, '0').slice(-one.bits)), one).values,
  }));

const placeOf = ({ spans }: Format) => spans[0]!.at.split('-').map(Number) as [number, number];

describe('a card that parts', () => {
  const coded = format('26 | 1 even 2-13 | 2-9 facility | 10-25 number | 26 odd 14-25');
  const plain = format('26 | 1 even 2-13 | 2-25 number | 26 odd 14-25');

  it('facility code 0 from none: only a number that needs the bits of the code', () => {
    const read = encode(coded, { facility: '0', number: '4021' });
    expect(partingCard(of(read, coded, plain))).toEqual({ printed: '65536', leaves: 1 });
  });

  it('one is parted by nothing, and nothing parts a format from itself under another name', () => {
    const read = encode(plain, { number: '4021' });
    expect(partingCard(of(read, plain))).toBeUndefined();
    expect(partingCard(of(read, plain, { ...plain, id: 'again' }))).toBeUndefined();
  });

  it('reads of two lengths, one text: 26 and 27 bits right-justified', () => {
    const longer = format('27 | 12-27 number');
    const short = format('26 | 11-26 number');
    const wide = format('27 | 10-27 number');
    const read = encode(short, { number: '513' });
    expect(partingCard(of(read, short, longer))).toBeUndefined();
    expect(partingCard(of(read, short, wide))).toEqual({ printed: '65536', leaves: 1 });
  });

  it('is what it says: held against every card of its number, whichever format is right', () => {
    const window = fc
      .tuple(fc.integer({ min: 1, max: 12 }), fc.integer({ min: 4, max: 12 }))
      .map(([from, width]) => format(`24 | ${from}-${from + width - 1} number`));
    fc.assert(
      fc.property(
        fc.array(window, { minLength: 2, maxLength: 4 }),
        fc.integer({ min: 1, max: 15 }),
        (drawn, number) => {
          const formats = [...new Map(drawn.map((one) => [one.id, one])).values()];
          const first = formats[0]!;
          const read = encode(first, { number: String(number) });
          const agreeing = of(read, ...formats).filter(({ values }) => values.number === String(number));
          const card = partingCard(agreeing);
          if (!card) return;
          let most = 0;
          for (const { format: right } of agreeing) {
            const [from, to] = placeOf(right);
            if (BigInt(card.printed) >= 1n << BigInt(to - from + 1)) continue;
            // By hand: the digits put where the number stands, and cut where each other has it.
            const digits = BigInt(card.printed)
              .toString(2)
              .padStart(to - from + 1, '0');
            const text = '0'.repeat(from - 1) + digits + '0'.repeat(24 - to);
            const same = agreeing.filter(({ format: other }) => {
              const [a, b] = placeOf(other);
              return BigInt(`0b${text.slice(a - 1, b)}`).toString() === card.printed;
            });
            most = Math.max(most, same.length);
          }
          expect(most).toBe(card.leaves);
          expect(card.leaves).toBeLessThan(agreeing.length);
        },
      ),
      { numRuns: 300 },
    );
  });
});
