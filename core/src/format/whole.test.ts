/** A card by its whole string: the layout takes every bit as it arrives, and none else does. */
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { Bits } from '../bits/index.ts';
import { CATALOGUE, catalogued } from '../catalogue/index.ts';
import { decode, encode } from '../codec/index.ts';
import { parseLayoutLine } from './layoutLine.ts';
import { isWhole, wholeLayout } from './whole.ts';

it('its number is the whole string, and gives it back', () => {
  fc.assert(
    fc.property(fc.array(fc.constantFrom('0', '1'), { minLength: 1, maxLength: 512 }), (digits) => {
      const bits = digits.join('');
      const format = { ...catalogued('26-8-16')!, ...parseLayoutLine(wholeLayout(bits.length)) };
      const { fit, values } = decode(Bits.fromBinary(bits), format);
      expect([fit, values.number]).toEqual(['full', BigInt(`0b${bits}`).toString()]);
      expect(encode(format, { number: values.number! }).toBinary()).toBe(bits);
      expect(isWhole(format)).toBe(true);
    }),
    { numRuns: 60 },
  );
});

it.each([
  '32r | 1-32 number',
  '32i | 1-32 number',
  '32 | 2-32 number',
  '32 | 32-1 number',
  '32 | 1-32 number bcd',
  '4 | 1-2 facility | 3-4 number',
])('%s is not the whole string as it arrives', (line) => expect(isWhole(parseLayoutLine(line))).toBe(false));

it('of the library none but those that say so', () => {
  for (const format of CATALOGUE)
    expect([format.id, isWhole(format)]).toEqual([format.id, format.id === `${format.bits}-0-${format.bits}`]);
});
