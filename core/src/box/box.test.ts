/** Boxes: every card against an independent computation, runs of numbers against counting, labels against what they hide. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Bits } from '../bits/index.ts';
import { CATALOGUE, catalogued } from '../catalogue/index.ts';
import { decode, encode } from '../codec/index.ts';
import { failureOf } from '../failure/index.ts';
import { parseLayoutLine } from '../format/index.ts';
import { explain } from '../translate/index.ts';
import {
  againstLabel,
  type BoxLabel,
  cardsOf,
  checkLabel,
  countOf,
  freeRun,
  gapsIn,
  othersThatShow,
  type Range,
  sharedBy,
  united,
} from './index.ts';

const OPEN_26 = catalogued('26-8-16')!;
const label = (over: Partial<BoxLabel> = {}): BoxLabel => ({
  facility: '58',
  first: '100',
  last: '299',
  print: { kind: 'number' },
  values: {},
  ...over,
});
const refusalOf = (run: () => unknown) => {
  try {
    run();
  } catch (error) {
    return failureOf(error);
  }
  throw new Error('nothing was thrown');
};

/** The open 26-bit format put together digit by digit, from its description (SIA AC-01-1996.10). */
function open26(facility: number, number: number): string {
  const data = facility.toString(2).padStart(8, '0') + number.toString(2).padStart(16, '0');
  const ones = (text: string) => [...text].filter((digit) => digit === '1').length;
  return `${ones(data.slice(0, 12)) % 2}${data}${(ones(data.slice(12)) + 1) % 2}`;
}

describe('the cards of a box', () => {
  it('deliver the bits of the open format, every one of a whole code', () => {
    const whole = label({ first: '0', last: '65535' });
    checkLabel(OPEN_26, whole);
    const cards = cardsOf(OPEN_26, whole);
    expect(cards.length).toBe(65_536);
    const wrong = cards.filter(({ bits, number }, i) => bits !== open26(58, i) || number !== String(i));
    expect(wrong).toEqual([]);
  });

  it('bear what another device shows for them, where the label says so by a translation', () => {
    const uid = { ...OPEN_26, ...parseLayoutLine('32 | 1-32 number') };
    const { translation } = explain([{ a: '04A23B1C', b: '0473670148' }]).explanations[0]!;
    const box = label({
      facility: null,
      first: '77740828',
      last: '77741100',
      print: { kind: 'translation', translation },
    });
    checkLabel(uid, box);
    const wrong = cardsOf(uid, box).filter(({ bits, printed }) => {
      // The four bytes the other way round, as a decimal of ten digits.
      const bytes = bits.match(/.{8}/g)!.map((byte) => Number.parseInt(byte, 2));
      const backwards = bytes.reduce((sum, byte, i) => sum + byte * 256 ** i, 0);
      return printed !== String(backwards).padStart(10, '0');
    });
    expect(wrong).toEqual([]);
    // Of 26 bits nothing is four bytes; and what goes below 0 does at some card between the first and the last.
    const less = { ...translation, from: 'decimal', order: 'as it is' as const, bits: 32, add: '-77741000' };
    for (const [format, over] of [
      [OPEN_26, { print: { kind: 'translation', translation: { ...translation, bits: 8 } } }],
      [uid, { ...box, print: { kind: 'translation', translation: less } }],
    ] as const)
      expect(refusalOf(() => checkLabel(format, label(over as Partial<BoxLabel>)))).toMatchObject({
        code: 'box-print',
        where: { field: 'print' },
      });
  });

  it('are the same in pieces', () => {
    const box = label({ first: '7', last: '45' });
    const pieces = [0, 10, 20, 30].flatMap((at) => cardsOf(OPEN_26, box, at, 10));
    expect(pieces).toEqual(cardsOf(OPEN_26, box));
  });

  it.each([
    ['the number', { kind: 'number' } as const, ['', '', '']],
    [
      'a run of its own, zeros in front',
      { kind: 'run', first: '0098', order: 'up' } as const,
      ['0098', '0099', '0100'],
    ],
    ['a run the other way', { kind: 'run', first: '501', order: 'down' } as const, ['501', '500', '499']],
    ['a run that is the number', { kind: 'run', first: '100', order: 'up' } as const, ['', '', '']],
  ])('have printed on them: %s', (_, print, printed) => {
    expect(cardsOf(OPEN_26, label({ last: '102', print })).map((card) => card.printed)).toEqual(printed);
  });

  it('have printed on them what their format says', () => {
    const format = { ...OPEN_26, ...parseLayoutLine('16 | 1-16 number | print = number + 5000') };
    expect(cardsOf(format, label({ facility: null, last: '100' }))[0]!.printed).toBe('5100');
  });

  it('share the other values of their format', () => {
    const issued = { ...OPEN_26, ...parseLayoutLine('12 | 1-2 issue | 3-12 number') };
    const [card] = cardsOf(issued, label({ facility: null, values: { issue: '2' } }));
    expect(card!.bits).toBe(`10${(100).toString(2).padStart(10, '0')}`);
    expect(refusalOf(() => checkLabel(issued, label({ facility: null })))).toMatchObject({ code: 'box-value' });
  });

  it.each([
    ['the last below the first', label({ first: '300' }), 'box-order', 'below the first'],
    ['too many', label({ first: '0', last: '65535000' }), 'box-size', '65,535,001 cards'],
    ['half beyond the greatest number', label({ first: '65500', last: '65599' }), 'box-range', '36 of the 100 fit'],
    ['wholly beyond', label({ first: '70000', last: '70001' }), 'box-range', 'none of them fits'],
    ['a code that the format cannot hold', label({ facility: '300' }), 'box-facility', 'above 255'],
    ['no code where the format has one', label({ facility: null }), 'box-facility', 'carries a facility code'],
    ['prints below zero', label({ print: { kind: 'run', first: '100', order: 'down' } }), 'box-print', 'below 0'],
  ])('are refused: %s', (_, box, code, words) => {
    const failure = refusalOf(() => checkLabel(OPEN_26, box));
    expect([failure.code, failure.message]).toEqual([code, expect.stringContaining(words)]);
    expect(failure.where?.field).toBeTruthy();
  });

  it('of every format in the catalogue decode to their number again', () => {
    for (const format of CATALOGUE) {
      const roles = new Set(format.spans.map(({ role }) => role));
      if (!roles.has('number')) continue;
      const values = Object.fromEntries(roles.has('issue') ? [['issue', '1']] : []);
      const box = label({ facility: roles.has('facility') ? '3' : null, first: '5', last: '60', values });
      checkLabel(format, box);
      for (const { bits, number } of cardsOf(format, box))
        expect(decode(Bits.fromBinary(bits), format)).toMatchObject({ fit: 'full', values: { number } });
    }
  });
});

describe('runs of numbers, against counting', () => {
  const range = fc
    .tuple(fc.integer({ min: 0, max: 60 }), fc.integer({ min: 0, max: 12 }))
    .map(([from, more]): Range => ({ from: BigInt(from), to: BigInt(from + more) }));
  const inOne = (ranges: readonly Range[], n: number) => ranges.some(({ from, to }) => from <= n && n <= to);
  const within = { from: 3n, to: 70n };

  it('united, shared and left over', () => {
    fc.assert(
      fc.property(fc.array(range, { maxLength: 8 }), (ranges) => {
        const [whole, gaps] = [united(ranges), gapsIn(within, ranges)];
        for (let n = 0; n <= 80; n++) {
          expect(inOne(whole, n)).toBe(inOne(ranges, n));
          expect(inOne(gaps, n)).toBe(n >= 3 && n <= 70 && !inOne(ranges, n));
        }
        for (const list of [whole, gaps])
          for (let i = 1; i < list.length; i++) expect(list[i]!.from > list[i - 1]!.to + 1n).toBe(true);
        const [a, b] = ranges;
        if (a && b)
          for (let n = 0; n <= 80; n++)
            expect(inOne([sharedBy(a, b) ?? []].flat(), n)).toBe(inOne([a], n) && inOne([b], n));
      }),
    );
  });

  it('the next free run is the lowest', () => {
    fc.assert(
      fc.property(fc.array(range, { maxLength: 8 }), fc.integer({ min: 1, max: 30 }), (ranges, size) => {
        let lowest: number | undefined;
        for (let from = 3; from + size - 1 <= 70 && lowest === undefined; from++)
          if (Array.from({ length: size }, (_, i) => from + i).every((n) => !inOne(ranges, n))) lowest = from;
        const found = freeRun(within, ranges, BigInt(size));
        expect(found && [Number(found.from), Number(found.to)]).toEqual(
          lowest === undefined ? undefined : [lowest, lowest + size - 1],
        );
      }),
    );
  });
});

describe('a box against its label', () => {
  const others = CATALOGUE.filter(({ bits }) => bits <= 37);
  const read = (facility: string, number: string, id = '26-8-16') => ({
    bits: encode(catalogued(id)!, { number, ...(facility !== '' && { facility }) }),
  });
  const held = (...cards: { bits: Bits; printed?: string }[]) => againstLabel(OPEN_26, label(), others, cards);

  it('says what each card is instead', () => {
    const { verdicts, next } = held(
      read('58', '120'),
      read('59', '120'),
      read('58', '300'),
      read('12', '120', '34-16-16'),
      { ...read('58', '121'), printed: '0121' },
      { ...read('58', '122'), printed: '5122' },
      { bits: Bits.fromBinary('1'.repeat(26)) },
    );
    expect(verdicts).toEqual([
      { is: 'of the box', number: '120' },
      { is: 'another code', facility: '59', number: '120' },
      { is: 'outside the range', number: '300' },
      { is: 'another format', fits: expect.arrayContaining([{ format: '34-16-16', facility: '12', number: '120' }]) },
      { is: 'of the box', number: '121' },
      { is: 'printed otherwise', number: '122', expected: '122' },
      { is: 'another format', fits: [] },
    ]);
    expect(next).toEqual([]);
  });

  it('asks for both ends, and for a card that parts formats which have the others alike', () => {
    expect(held(read('58', '150')).next).toEqual([
      { number: '100', why: 'the first' },
      { number: '299', why: 'the last' },
    ]);
    expect(held(read('58', '100'), read('58', '299')).next).toEqual([]);
    // Of code 0 the format of one long number has every card of the box alike: nothing parts them, and nothing is asked.
    const zero = label({ facility: '0' });
    expect(againstLabel(OPEN_26, zero, others, [read('0', '100'), read('0', '299')])).toMatchObject({
      next: [],
      alike: ['26-0-24'],
    });
    expect(held(read('58', '100'), read('58', '299')).alike).toEqual([]);
    // A rival whose number is one bit shorter has those up to 32767 alike.
    const shorter = {
      ...OPEN_26,
      id: 'shorter',
      ...parseLayoutLine('26 | 1 even 2-13 | 2-10 facility | 11-25 number | 26 odd 14-25'),
    };
    const across = label({ first: '32700', last: '32900' });
    const parted = againstLabel(OPEN_26, { ...across, last: '32767' }, [shorter], [read('58', '32700')]);
    expect(parted.next.map(({ why }) => why)).toEqual(['the last']);
    const { next } = againstLabel(OPEN_26, across, [shorter], [read('58', '32700')]);
    expect(next.map(({ number, why }) => [number, why])).toEqual([['32900', 'the last']]);
  });

  it('how many others would have shown, against exact binomials', () => {
    const choose = (n: number, k: number): bigint => {
      let value = 1n;
      for (let i = 0; i < k; i++) value = (value * BigInt(n - i)) / BigInt(i + 1);
      return k > n ? 0n : value;
    };
    for (const [count, drawn] of [
      [200, 1],
      [200, 5],
      [200, 20],
      [25, 3],
      [1000, 59],
      [7, 7],
    ] as const) {
      const certain = (others: number) => choose(count - others, drawn) * 100n <= choose(count, drawn) * 5n;
      const least = Array.from({ length: count }, (_, i) => i + 1).find(certain);
      expect([count, drawn, othersThatShow(count, drawn)]).toEqual([count, drawn, least]);
    }
    expect(othersThatShow(200, 0)).toBeNull();
  });
});

it('a label counts its cards', () => {
  expect(countOf({ first: '118400', last: '118599' })).toBe(200);
});
