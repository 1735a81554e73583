import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { runs } from '../../testing/runs.ts';
import { explain, translate, translationInWords, translationSchema } from './index.ts';

// 4-byte UIDs made up; each way of showing them is common practice, DOMAIN §1 and §2.
const UIDS = [0x04a23b1c, 0x1d2c4f90, 0xa1b2c3d4];
const hex = (n: number) => n.toString(16).toUpperCase().padStart(8, '0');
const reversed = (n: number) => hex(n).match(/../g)!.reverse().join('');
const joined = (n: number) => String(((n >>> 16) & 255) * 100000 + (n & 0xffff));
const pair = (n: number) => `${String((n >>> 16) & 255).padStart(3, '0')},${String(n & 0xffff).padStart(5, '0')}`;

const first = (pairs: { a: string; b: string }[]) => explain(pairs).explanations[0]!;

describe('what leads from one output to the other', () => {
  it.each([
    [
      'bytes reversed',
      hex,
      (n: number) => String(Number.parseInt(reversed(n), 16)),
      'hex of 32 bits, bytes reversed, written in decimal',
    ],
    [
      'the top byte dropped',
      hex,
      (n: number) => String(n & 0xffffff),
      'hex of 32 bits, top byte dropped, written in decimal',
    ],
    [
      'fff,nnnnn',
      (n: number) => String(n).padStart(10, '0'),
      pair,
      'decimal of 32 bits, top byte dropped, written in facility,number',
    ],
    [
      'joined in one decimal',
      hex,
      joined,
      'hex of 32 bits, top byte dropped, facility code and 16-bit number joined in one decimal, written in decimal',
    ],
    ['inverted', hex, (n: number) => hex(~n >>> 0), 'hex of 32 bits, inverted, written in hex'],
    [
      'nibbles swapped',
      hex,
      (n: number) => hex(n).replace(/(.)(.)/g, '$2$1'),
      'hex of 32 bits, nibbles swapped, written in hex',
    ],
    [
      'parity stripped',
      (n: number) => `1${n.toString(2).padStart(32, '0')}0`,
      hex,
      'binary of 34 bits, first and last bit (parity) stripped, written in hex',
    ],
    [
      'a constant added',
      (n: number) => String(n),
      (n: number) => String(n + 5000),
      'decimal of 32 bits, 5000 added, written in decimal',
    ],
    [
      'parity stripped, then the bytes reversed',
      (n: number) => `1${n.toString(2).padStart(32, '0')}0`,
      reversed,
      'binary of 34 bits, first and last bit (parity) stripped, bytes reversed, written in hex',
    ],
    [
      'nibbles swapped, half a byte cut off, then the bytes reversed, by its plainest name',
      (n: number) => `${hex(n)}A5`.replace(/(.)(.)/g, '$2$1'),
      (n: number) =>
        hex(((n & 0xfffffff) * 16 + 10) >>> 0)
          .match(/../g)!
          .reverse()
          .join(''),
      'hex of 40 bits, bytes reversed, top 4 bits dropped, last 4 bits dropped, nibbles swapped, written in hex',
    ],
    [
      'zeros in front that the other device shows',
      hex,
      (n: number) => String(n & 0xffffff).padStart(10, '0'),
      'hex of 32 bits, top byte dropped, written in decimal of 10 digits',
    ],
    [
      'no zeros in front',
      (n: number) => hex(n >>> 8),
      (n: number) => (n >>> 8).toString(16),
      'hex of 32 bits, written in hex without leading zeros',
    ],
  ])('%s', (_, a, b, words) => {
    const found = first(UIDS.map((n) => ({ a: a(n), b: b(n) })));
    expect([found.words, found.direction, found.explains]).toEqual([words, 'a to b', 3]);
  });

  it('whatever order the steps come in, what is found gives the other device’s text digit by digit', () => {
    const orders = {
      'bytes reversed': (text: string) => text.match(/../g)!.reverse().join(''),
      'nibbles swapped': (text: string) => text.replace(/(.)(.)/g, '$2$1'),
      'nibbles reversed': (text: string) => [...text].reverse().join(''),
      'as it is': (text: string) => text,
    };
    const one = fc.constantFrom(...Object.values(orders));
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 0x100000, max: 0xffffffff }), { minLength: 4, maxLength: 6 }),
        fc.tuple(fc.integer({ min: 0, max: 3 }), fc.integer({ min: 0, max: 3 })),
        one,
        fc.boolean(),
        (uids, [front, back], turned, mirrored) => {
          // Bits around the number that follow from it, as parity does.
          const around = (n: number, count: number) =>
            (n % 5)
              .toString(2)
              .padStart(3, '0')
              .slice(3 - count);
          // Last bit first before it is cut, or not.
          const sent = (text: string) => (mirrored ? [...text].reverse().join('') : text);
          const pairs = uids.map((n) => ({
            a: sent(`${around(n, front)}${n.toString(2).padStart(32, '0')}${around(n >>> 3, back)}`),
            b: turned(hex(n)),
          }));
          const { translation, direction, unexplained } = first(pairs);
          expect(unexplained).toEqual([]);
          // Where what stands around is 0 on all of these cards, either is worked out from the other.
          for (const { a, b } of pairs) {
            const [from, to] = direction === 'a to b' ? [a, b] : [b, a];
            expect(translate(translation, from).text).toBe(to);
          }
        },
      ),
      { numRuns: runs(60) },
    );
  });

  it('goes the other way where the first device shows less', () => {
    expect(first(UIDS.map((n) => ({ a: String(n & 0xffffff), b: hex(n) })))).toMatchObject({ direction: 'b to a' });
  });

  it('an outlier does not reject a good explanation, and is named', () => {
    const pairs = [...UIDS, 0x11223344, 0x55667788].map((n) => ({ a: hex(n), b: reversed(n) }));
    pairs[3]!.b = '12345678';
    expect(first(pairs)).toMatchObject({ words: 'hex of 32 bits, bytes reversed, written in hex', unexplained: [4] });
  });

  it('says which pair would settle what one palindrome leaves open', () => {
    const { explanations, settle } = explain([
      { a: '12344321', b: '12344321' },
      { a: '00000000', b: '00000000' },
    ]);
    expect(explanations.length).toBeGreaterThan(1);
    expect(explanations[0]!.steps).toBe(0);
    expect(settle!.of).toBe('a');
    expect(new Set(settle!.gives).size).toBeGreaterThan(1);
  });

  it('finds nothing between numbers that have nothing to do with each other', () => {
    expect(explain(UIDS.map((n, i) => ({ a: hex(n), b: String(98765431 + i * 7777) }))).explanations).toEqual([]);
  });

  it('an explanation, kept and applied, gives what the pairs say, for random cards', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 0x1000000, max: 0xffffffff }), { minLength: 3, maxLength: 6 }),
        (uids) => {
          const pairs = uids.map((n) => ({ a: hex(n), b: joined(Number.parseInt(reversed(n), 16)) }));
          const { translation, direction } = first(pairs);
          expect(direction).toBe('a to b');
          expect(translationSchema.parse(JSON.parse(JSON.stringify(translation)))).toEqual(translation);
          for (const { a, b } of pairs)
            expect(translate(translation, a).text.replace(/^0+/, '')).toBe(b.replace(/^0+/, ''));
        },
      ),
      { numRuns: runs(30) },
    );
  });

  it.each([
    [[], 'pairs-none', undefined],
    [[{ a: '12', b: '' }], 'shown-empty', 'b'],
    [[{ a: 'xyz!', b: '1' }], 'shown-unreadable', 'a'],
  ])('%j is refused as %s', (pairs, code, field) => {
    let failure: { code?: string; where?: { field?: string } } = {};
    try {
      explain(pairs);
    } catch (error) {
      failure = error as typeof failure;
    }
    expect([failure.code, failure.where?.field]).toEqual([code, field]);
  });

  it('a text of another notation or width is refused when it is applied', () => {
    const { translation } = first(UIDS.map((n) => ({ a: hex(n), b: reversed(n) })));
    expect(translationInWords(translation)).toBe('hex of 32 bits, bytes reversed, written in hex');
    expect(() => translate(translation, '12,34')).toThrow('is not hex');
    expect(() => translate(translation, '1122334455')).toThrow('more than the 32 bits');
    expect(translate(translation, 'A2 3B 1C 04').bits!.toHex()).toBe('041C3BA2');
  });
});

describe('how many cards there are', () => {
  it('one pair is one card however often it is entered, and is told so', () => {
    const pair = { a: '28E4694', b: '42878612' };
    expect(explain([pair]).cards).toBe(1);
    const twice = explain([pair, { a: ' 28e4694', b: '42878612 ' }, pair, pair]);
    expect(twice.cards).toBe(1);
    expect(twice.explanations.map(({ words }) => words)).toEqual(
      explain([pair]).explanations.map(({ words }) => words),
    );
    expect(twice.explanations[0]!.explains).toBe(4);
  });

  it('of a thousand, a fifth of them wrong, and one number far greater than the others', () => {
    const cards = Array.from({ length: 1000 }, (_, i) => (i === 777 ? 0xfedcba98 : 4099 + i * 37));
    const pairs = cards.map((n, i) => ({ a: hex(n), b: i % 5 === 2 ? String(n + 3 * i + 1) : String(n) }));
    const { words, unexplained, explains } = explain(pairs).explanations[0]!;
    expect([words, unexplained.length, explains]).toEqual(['hex of 32 bits, written in decimal', 200, 800]);
  });

  it('rows of a card that is not explained are all named', () => {
    const pairs = [1000, 2000, 3000, 4000, 5000].map((n) => ({ a: n.toString(16).padStart(8, '0'), b: String(n) }));
    const wrong = { a: '00001770', b: '7777' };
    const { explanations, cards } = explain([wrong, ...pairs, wrong]);
    expect([cards, explanations[0]!.unexplained]).toEqual([6, [1, 7]]);
  });
});
