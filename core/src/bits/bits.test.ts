import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyBits } from '../../testing/anyBits.ts';
import { Bits } from './index.ts';

const wholeBytes = fc.uint8Array({ minLength: 1, maxLength: 64 });

describe('conversions agree with JavaScript’s own number parsing', () => {
  it('at every length from 1 to 512', () => {
    for (let length = 1; length <= 512; length++) {
      const text = Array.from({ length }, (_, i) => ((i * i + length) % 3 === 0 ? '1' : '0')).join('');
      const bits = Bits.fromBinary(text);
      const value = BigInt(`0b${text}`);
      expect(bits.toBinary()).toBe(text);
      expect(bits.toBigInt()).toBe(value);
      expect(bits.toHex('right')).toBe(
        value
          .toString(16)
          .toUpperCase()
          .padStart(Math.ceil(length / 4), '0'),
      );
      expect(bits.toHex('left')).toBe(
        BigInt(`0b${text.padEnd(Math.ceil(length / 4) * 4, '0')}`)
          .toString(16)
          .toUpperCase()
          .padStart(Math.ceil(length / 4), '0'),
      );
    }
  });

  it('round-trips hex on both sides, decimal and words', () => {
    fc.assert(
      fc.property(anyBits(), (bits) => {
        for (const side of ['left', 'right'] as const)
          expect(Bits.fromHex(bits.toHex(side), bits.length, side).equals(bits)).toBe(true);
        expect(Bits.fromBigInt(BigInt(bits.toDecimal()), bits.length).equals(bits)).toBe(true);
        expect(Bits.fromWords(bits.words, bits.length).equals(bits)).toBe(true);
        expect(bits.count()).toBe([...bits.toBinary()].filter((c) => c === '1').length);
      }),
    );
  });
});

describe('reversals agree with Buffer', () => {
  it('bytes, nibbles and bits', () => {
    fc.assert(
      fc.property(wholeBytes, (bytes) => {
        const bits = Bits.fromBytes(bytes);
        const hex = Buffer.from(bytes).toString('hex').toUpperCase();
        expect(bits.reverseBytes().toHex()).toBe(Buffer.from(bytes).reverse().toString('hex').toUpperCase());
        expect(bits.reverseNibbles().toHex()).toBe([...hex].reverse().join(''));
        expect(bits.swapNibbles().toHex()).toBe(hex.replace(/(.)(.)/g, '$2$1'));
        expect(bits.reverseBits().toBinary()).toBe([...bits.toBinary()].reverse().join(''));
        expect(bits.reverseBitsInBytes().toHex()).toBe(bits.reverseBits().reverseBytes().toHex());
        expect([...bits.toBytes()]).toEqual([...bytes]);
      }),
    );
  });

  it('are their own inverses, and so is inversion', () => {
    fc.assert(
      fc.property(anyBits(), (bits) => {
        expect(bits.reverseBits().reverseBits().equals(bits)).toBe(true);
        expect(bits.invert().invert().equals(bits)).toBe(true);
        expect(bits.xor(bits.invert()).count()).toBe(bits.length);
      }),
    );
  });

  it('refuse what is not whole bytes or nibbles', () => {
    expect(() => Bits.fromBinary('1'.repeat(26)).reverseBytes()).toThrow('26 bits are not whole bytes');
    expect(() => Bits.fromBinary('1'.repeat(26)).reverseNibbles()).toThrow('not whole nibbles');
  });
});

describe('slices', () => {
  it('put together give the whole again', () => {
    fc.assert(
      fc.property(anyBits(2), fc.nat(), (bits, seed) => {
        const cut = 1 + (seed % (bits.length - 1));
        expect(
          bits
            .slice(1, cut)
            .concat(bits.slice(cut + 1, bits.length))
            .equals(bits),
        ).toBe(true);
      }),
    );
  });
});

describe('bad input', () => {
  it.each([
    ['', 'There are no bits'],
    ['1'.repeat(513), '513 bits are too many'],
    ['0120', '"2" at column 3'],
  ])('binary %j', (text, message) => {
    expect(() => Bits.fromBinary(text)).toThrow(message);
  });

  it.each([
    ['1FG', 12, '"G" at column 3'],
    ['1FF', 26, '3 hex digits hold 12 bits, fewer than the 26'],
    ['FFFFFFF', 26, 'a 1 outside the 26 bits'],
  ])('hex %j of %i bits', (text, length, message) => {
    expect(() => Bits.fromHex(text, length)).toThrow(message);
  });

  it('numbers that do not fit, positions outside', () => {
    expect(() => Bits.fromBigInt(256n, 8)).toThrow('256 needs 9 bits, more than 8');
    expect(() => Bits.fromBinary('01').at(3)).toThrow('Position 3 is outside 1 to 2');
  });
});
