/**
 * Checks anywhere in a read: all that are there, by computing every one of them over every run with the code that formats are
 * computed with; and what each says over another read.
 */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Bits } from '../../bits/index.ts';
import { PUBLISHED_CRCS } from '../../check/index.ts';
import { checkValue, encode } from '../../codec/index.ts';
import { type CheckMethod, checkGroup, checkWidth, parseLayoutLine, printMethod } from '../../format/index.ts';
import { checksAmong } from './checkSearch.ts';
import { type CheckAt, checkInWords, valueOver } from './checks.ts';

const hex = (value: number) => value.toString(16).toUpperCase();
const METHODS: CheckMethod[] = [
  { kind: 'xor', width: 4 },
  { kind: 'xor', width: 8 },
  { kind: 'lrc5' },
  ...[4, 8].flatMap((width) => [false, true].map((negated): CheckMethod => ({ kind: 'sum', width, negated }))),
  ...PUBLISHED_CRCS.map(
    ({ width, poly, init, reflected, xorOut }): CheckMethod => ({
      kind: 'crc',
      width,
      poly: hex(poly),
      init: hex(init),
      reflectIn: reflected,
      reflectOut: reflected,
      xorOut: hex(xorOut),
    }),
  ),
];
const nameOf = ({ method, at, first, last }: Pick<CheckAt, 'method' | 'at' | 'first' | 'last'>) =>
  `${printMethod(method)} ${first}-${last} at ${at}`;

function everyCheck(reads: readonly Bits[]): string[] {
  const { length } = reads[0]!;
  const found: string[] = [];
  for (const method of METHODS) {
    const width = checkWidth(method);
    for (let first = 0; first < length; first++)
      for (let last = first + width - 1; last < length; last++) {
        if ((last - first + 1) % checkGroup(method) !== 0) continue;
        // The sum of one group is its exclusive or.
        if (method.kind === 'sum' && !method.negated && last - first + 1 === width) continue;
        const values = reads.map((bits) => checkValue(method, bits.slice(first + 1, last + 1)));
        for (let at = 0; at + width <= length; at++) {
          if (at <= last && at + width > first) continue;
          if (reads.every((bits, i) => bits.slice(at + 1, at + width).toBigInt() === values[i]))
            found.push(nameOf({ method, at, first, last }));
        }
      }
  }
  return found.sort();
}

const readsOf = (length: number, count: number) =>
  fc.array(fc.array(fc.boolean(), { minLength: length, maxLength: length }), { minLength: count, maxLength: count });
const always = { isWanted: () => true, inverted: false, most: 1e6 };

describe('checks anywhere in a read', () => {
  it.each([1, 2, 3, 5])('of %i reads: all that are there, and no other', (count) => {
    let seen = 0;
    fc.assert(
      fc.property(
        fc.integer({ min: 8, max: 36 }).chain((length) => readsOf(length, count)),
        (lists) => {
          // Half of each read is as in the first one, so that some checks agree with several.
          const reads = lists.map((list) =>
            Bits.build(list.length, (p) => ((p * 2 > list.length ? lists[0]! : list)[p - 1]! ? 1 : 0)),
          );
          const { found, areAll } = checksAmong(reads, always);
          seen += found.length;
          expect(areAll).toBe(true);
          expect(found.map(nameOf).sort()).toEqual(everyCheck(reads));
        },
      ),
      { numRuns: 12, seed: 1 },
    );
    expect(seen).toBeGreaterThan(0);
  });

  it.each(
    METHODS.map((method) => [printMethod(method), method] as const),
  )('%s behind its bits is found, inverted too, and says of another read what the codec does', (line, method) => {
    const width = checkWidth(method);
    const layout = parseLayoutLine(
      `${45 + width} | 1-5 value "a" | 6-45 number | ${46}-${45 + width} check ${line} 6-45`,
    );
    const read = (number: number) => encode(layout, { a: '21', number: String(number) });
    const cards = [1_234_567, 99_000_111, 77].map(read);
    for (const inverted of [false, true]) {
      const sent = cards.map((bits) => (inverted ? bits.invert() : bits));
      const { found } = checksAmong(sent, { ...always, inverted });
      const own = found.find((one) => nameOf(one) === `${line} 5-44 at 45`)!;
      expect(own).toBeDefined();
      expect(checkInWords(own)).toBe(`bits 46 to ${45 + width} are check ${line} over bits 6 to 45`);
      const other = inverted ? read(31_337_000).invert() : read(31_337_000);
      const list = Array.from({ length: other.length }, (_, p) => other.at(p + 1));
      expect(BigInt(valueOver(own, list))).toBe(other.slice(46, 45 + width).toBigInt());
    }
  });

  it('says so where there are more than are taken, and leaves out those over what is not wanted', () => {
    const reads = [Bits.build(64, (p) => ((p * p * 7) % 3 === 1 ? 1 : 0))];
    expect(checksAmong(reads, { ...always, most: 10 })).toMatchObject({ areAll: false, found: { length: 10 } });
    const wanted = checksAmong(reads, { ...always, isWanted: (first, last) => first <= 7 && last >= 7 });
    expect(wanted.found.length).toBeGreaterThan(0);
    expect(wanted.found.every(({ first, last }) => first <= 7 && last >= 7)).toBe(true);
  });
});
