import { crc8, crc16ccitt, crc16kermit, crc16xmodem } from 'crc';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Bits } from '../bits/index.ts';
import {
  additiveSum,
  CRC_A,
  CRC_OSDP,
  crc,
  crcOfBytes,
  lrc5,
  mod10,
  PUBLISHED_CRCS,
  parityBit,
  xorSum,
} from './index.ts';

const bytes = fc.uint8Array({ minLength: 1, maxLength: 64 });

describe('CRC against the registry library "crc"', () => {
  it('CRC_A is its CRC-16/Kermit begun at 6363, CRC_OSDP its CCITT begun at 1D0F', () => {
    fc.assert(
      fc.property(bytes, (list) => {
        const data = Buffer.from(list);
        const bits = Bits.fromBytes(data);
        expect(Number(crc(bits, CRC_A))).toBe(crc16kermit(data, 0x6363));
        expect(Number(crc(bits, CRC_OSDP))).toBe(crc16ccitt(data, 0x1d0f));
        expect(crcOfBytes(data, CRC_A)).toBe(crc(bits, CRC_A));
        const plain = { init: 0n, reflectIn: false, reflectOut: false, xorOut: 0n };
        expect(Number(crc(bits, { ...plain, width: 16, poly: 0x1021n }))).toBe(crc16xmodem(data));
        expect(Number(crc(bits, { ...plain, width: 8, poly: 7n }))).toBe(crc8(data));
      }),
    );
  });
});

describe('CRC against published values', () => {
  // ISO/IEC 14443-3, annex B: 00 00 gives A0 1E and 12 34 gives 26 CF, as sent (least significant byte first).
  it.each([
    [[0x00, 0x00], 0x1ea0],
    [[0x12, 0x34], 0xcf26],
  ])('CRC_A of %j', (data, wanted) => {
    expect(Number(crcOfBytes(data, CRC_A))).toBe(wanted);
  });

  // The check value that each specification gives for the nine characters "123456789" [from memory].
  it.each(PUBLISHED_CRCS)('width $width, polynomial $poly, preset $init, reflected $reflected', (one) => {
    const { width, poly, init, reflected, xorOut, check } = one;
    const parameters = { width, poly: BigInt(poly), init: BigInt(init), xorOut: BigInt(xorOut) };
    const of = (text: string) =>
      crcOfBytes(Buffer.from(text), { ...parameters, reflectIn: reflected, reflectOut: reflected });
    expect(Number(of('123456789'))).toBe(check);
  });

  it('needs whole bytes when it is reflected', () => {
    expect(() => crc(Bits.fromBinary('101'), CRC_A)).toThrow('needs whole bytes');
  });
});

describe('parity and sums', () => {
  it('even and odd', () => {
    expect([parityBit(3, 'even'), parityBit(3, 'odd'), parityBit(4, 'even'), parityBit(4, 'odd')]).toEqual([
      1, 0, 0, 1,
    ]);
  });

  it('exclusive or of groups', () => {
    expect(xorSum(Bits.fromHex('A5FF01'), 8)).toBe(0xa5n ^ 0xffn ^ 0x01n);
    expect(() => xorSum(Bits.fromHex('A5F'), 8)).toThrow('not whole groups of 8');
  });

  it('additive, and as two’s complement, with which all groups add up to 0', () => {
    fc.assert(
      fc.property(bytes, (list) => {
        const bits = Bits.fromBytes(list);
        const total = list.reduce((sum, byte) => sum + byte, 0);
        expect(Number(additiveSum(bits, 8, false))).toBe(total % 256);
        expect((Number(additiveSum(bits, 8, true)) + total) % 256).toBe(0);
      }),
    );
    expect(() => additiveSum(Bits.fromHex('A5F'), 8, false)).toThrow('not whole groups of 8');
  });

  // ISO/IEC 7812-1 annex B; the example of its check digit that is printed most, 7992739871 and 3 [from memory].
  it('modulo 10', () => {
    expect(mod10(Bits.fromHex('7992739871'))).toBe(3n);
    expect(mod10(Bits.fromHex('00'))).toBe(0n);
    expect(() => mod10(Bits.fromHex('7A'))).toThrow('above 9');
  });

  // ISO/IEC 7811-2: with the LRC, each data column has an even number of 1s, and every character odd parity.
  it('LRC makes every column even and keeps odd parity', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(31), { minLength: 1, maxLength: 100 }), (characters) => {
        const bits = characters.map((c) => Bits.fromBigInt(BigInt(c), 5)).reduce((a, b) => a.concat(b));
        const sum = Bits.fromBigInt(lrc5(bits), 5);
        for (let column = 1; column <= 4; column++) {
          const ones = characters.filter((c) => Bits.fromBigInt(BigInt(c), 5).at(column)).length + sum.at(column);
          expect(ones % 2).toBe(0);
        }
        expect(sum.count() % 2).toBe(1);
      }),
    );
  });
});
