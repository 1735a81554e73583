import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Bits } from '../bits/index.ts';
import { catalogued } from '../catalogue/index.ts';
import { decode, encode } from '../codec/index.ts';
import { agreementOf, printedNumbers, windowInWords, windowsOf } from './index.ts';

describe('prints', () => {
  it.each([
    ['30731', ['decimal 30731']],
    ['No. 30731', ['decimal 30731']],
    ['071,09034', ['facility and number 4662090']],
    ['71:9034', ['facility and number 4662090']],
    ['71-9034', ['facility and number 4662090']],
    ['0004662090 071,09034', ['facility and number 4662090']],
    ['04:78:21:33', ['decimal 4782133', `hex ${0x04782133}`]],
    ['04A23B1C', ['hex 77740828']],
    ['04:A2:3B:1C', ['hex 77740828']],
    ['0004662090', ['decimal 4662090', `hex ${0x4662090}`]],
  ])('%s', (text, wanted) => {
    expect(printedNumbers(text).map((p) => `${p.as} ${p.value}`)).toEqual(wanted);
  });

  it.each([
    ['', 'Nothing is printed'],
    ['30731Z', '"Z" is no digit'],
    ['???', 'is not a number'],
  ])('%j is refused', (text, message) => {
    expect(() => printedNumbers(text)).toThrow(message);
  });
});

/** The bits of a window taken in its order, as a number: an independent way back. */
function valueIn(bits: Bits, order: string, from: number, to: number): bigint {
  let cut = bits.slice(from, to).toBinary();
  if (order.includes('inverted')) cut = cut.replace(/./g, (c) => (c === '0' ? '1' : '0'));
  if (order.startsWith('bits reversed')) cut = [...cut].reverse().join('');
  if (order.startsWith('bytes reversed')) cut = cut.match(/.{8}/g)!.reverse().join('');
  return BigInt(`0b${cut}`);
}

describe('windows', () => {
  it('every window found holds the number, and the place it was put is found', () => {
    fc.assert(
      fc.property(
        fc.bigInt(1n, (1n << 40n) - 1n),
        fc.nat(20),
        fc.nat(20),
        fc.constantFrom('plain', 'bits', 'bytes'),
        (value, before, after, how) => {
          const needed = value.toString(2);
          const text =
            how === 'bytes'
              ? needed
                  .padStart(Math.ceil(needed.length / 8) * 8, '0')
                  .match(/.{8}/g)!
                  .reverse()
                  .join('')
              : how === 'bits'
                ? [...needed].reverse().join('')
                : needed;
          const bits = Bits.fromBinary('1'.repeat(before) + text + '1'.repeat(after));
          const { windows, more } = windowsOf(bits, value);
          for (const w of windows) {
            expect(valueIn(bits, w.order, w.from, w.to)).toBe(value);
            const wide =
              w.order.startsWith('as sent') || w.order === 'inverted'
                ? [w.from - w.leadingZeros, w.to]
                : [w.from, w.to + w.leadingZeros];
            expect(valueIn(bits, w.order, wide[0]!, wide[1]!)).toBe(value);
          }
          const here = windows.some(
            (w) => w.from <= before + 1 + (text.length - needed.length) && w.to <= before + text.length,
          );
          expect(here || more > 0).toBe(true);
        },
      ),
    );
  });

  it('tells how far leading zeros may go', () => {
    const bits = encode(catalogued('37-16-19')!, { facility: '41', number: '30731' });
    expect(windowsOf(bits, 30731n).windows.map(windowInWords)).toContain('bits 22-36, up to 18-36 with leading zeros');
  });
});

describe('agreement of a print with a format', () => {
  it('that says what is printed on its cards: that, and nothing else', () => {
    const agrees = (print: string, joined: boolean, add: string) =>
      agreementOf({ facility: '58', number: '1023' }, printedNumbers(print), { print: { joined, add } });
    expect(agrees('6023', false, '5000')).toBe('what its cards have printed on them');
    expect(agrees('1023', false, '5000')).toBeUndefined();
    expect(agrees('5801023', true, '0')).toBe('what its cards have printed on them');
    expect(agrees('58 01023', false, '5000')).toBeUndefined();
  });

  const values = decode(
    encode(catalogued('26-8-16')!, { facility: '71', number: '9034' }),
    catalogued('26-8-16')!,
  ).values;
  it.each([
    ['9034', 'number'],
    ['071,09034', 'facility and number'],
    ['7109034', 'facility and number joined in one decimal'], // common practice, no source: last five digits
    ['9035', undefined],
  ])('%s', (print, wanted) => {
    expect(agreementOf(values, printedNumbers(print))).toBe(wanted);
  });
});
