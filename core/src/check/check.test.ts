import { crc8, crc16ccitt, crc16kermit, crc16xmodem } from 'crc';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Bits } from '../bits/index.ts';
import { CRC_A, CRC_OSDP, crc, crcOfBytes, lrc5, parityBit, xorSum } from './index.ts';

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
