import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyBits } from '../../testing/anyBits.ts';
import type { RawBitsError } from '../failure/index.ts';
import { buildOsdpFrame, RAW, rawReplyData } from '../line/index.ts';
import { type IntakeOptions, intake } from './index.ts';

const taken = (text: string, options?: IntakeOptions) => {
  const [first] = intake(text, options).readings;
  return `${first.notation}: ${first.bits.toBinary()}`;
};
const all = (text: string, options?: IntakeOptions) =>
  intake(text, options).readings.map((r) => `${r.notation} ${r.bits.length} ${r.bits.toHex()}`);
const hex = (data: Uint8Array) => Buffer.from(data).toString('hex').toUpperCase();

describe('each notation', () => {
  it('binary, plain and grouped', () => {
    expect(taken('0101 1100')).toBe('binary: 01011100');
    expect(taken('0b0101_1')).toBe('binary: 01011');
    expect(taken('bin: 10|01')).toBe('binary: 1001');
  });

  it('hex with a length: right-justified first, left-justified where that is possible too', () => {
    expect(all('28E4695 26 bits')).toEqual(['hex 26 28E4695']);
    expect(all('28E4694 26 bits')).toEqual(['hex 26 28E4694', 'hex-left 26 0A391A5']);
    expect(all('26: 28E4695')).toEqual(['hex 26 28E4695']);
    expect(all('A391A500 26 bits')).toEqual(['hex-left 26 28E4694']);
    expect(all('0123450', { length: 24, justified: 'left' })).toEqual(['hex-left 24 012345']);
  });

  it('hex without a length: all of it, and the lengths in use that it may stand for', () => {
    expect(all('028E4694', { lengths: [26, 30, 37] })).toEqual([
      'uid 32 028E4694',
      'uid-reversed 32 94468E02',
      'hex 26 28E4694',
      'hex 30 028E4694',
      'hex-left 30 00A391A5',
    ]);
    expect(intake('8E4694A').readings[0].note).toContain('is one missing?');
  });

  it('decimal with a length, exact past 2^53', () => {
    expect(all('42878612 26 bits')).toEqual(['decimal 26 28E4694']);
    expect(all('9007199254740993 64 bits')).toContain('decimal 64 0020000000000001');
  });

  it('UID bytes, both orders', () => {
    expect(all('04 A2 3B 1C')).toEqual(['uid 32 04A23B1C', 'uid-reversed 32 1C3BA204']);
    expect(all('04:78:2E:21:80:1D:80')).toEqual(['uid 56 04782E21801D80', 'uid-reversed 56 801D80212E7804']);
  });

  it('prints', () => {
    expect(all('071,09034')).toEqual(['facility-number 24 47234A']);
    expect(all('0004662090')[0]).toBe('ten-digits 32 0047234A');
  });

  it('code and number in every way they are written, never as hex', () => {
    for (const text of ['071,09034', '071 09034', '71-9034', '71:9034', '71/9034', '71 9034', ' 071 , 09034 '])
      expect(all(text)).toEqual(['facility-number 24 47234A']);
    expect(all('0004662090 071,09034')).toEqual(['ten-digits 32 0047234A']);
    expect(all('0004662090, 071 09034')).toEqual(['ten-digits 32 0047234A']);
    expect(() => intake('0004662091 071,09034')).toThrow('are two cards');
    expect(() => intake('300-9034')).toThrow('above 255');
    // Bits and bytes stay what they are.
    expect(taken('101 0101')).toBe('binary: 1010101');
    expect(all('71:90')[0]).toBe('hex 16 7190');
    expect(all('04 78 2E 21')[0]).toBe('uid 32 04782E21');
  });

  it('a number that a spreadsheet has rounded is refused, as digits are lost', () => {
    for (const text of ['1.18406E+5', '4E+09', ' 1,18406e+05 '])
      expect(() => intake(text)).toThrow('digits of the number are lost');
    expect(all('1E5A 16 bits')).toEqual(['hex 16 1E5A']);
  });

  // ITU-T X.690 §8.6.4.2: the bit string 0A3B5F291CD, 44 bits, encoded primitively.
  it('BER-TLV bit string of X.690', () => {
    expect(taken('0307040A3B5F291CD0')).toBe(
      `ber-bit-string: ${BigInt('0x0A3B5F291CD').toString(2).padStart(44, '0')}`,
    );
  });

  it('an OSDP RAW reply', () => {
    fc.assert(
      fc.property(anyBits(), (bits) => {
        const frame = buildOsdpFrame({ address: 3, isReply: true, sequence: 1, code: RAW, data: rawReplyData(bits) });
        expect(taken(hex(frame))).toBe(`osdp-raw: ${bits.toBinary()}`);
        expect(taken(`FF ${hex(frame).replace(/../g, '$& ')}`)).toBe(`osdp-raw: ${bits.toBinary()}`);
      }),
    );
  });

  it('clock-and-data characters', () => {
    expect(taken(';12?')).toBe('clock-and-data: 1101010000010001111111100');
  });
});

describe('any read goes out and comes in', () => {
  it('in binary, hex with its length and decimal with its length', () => {
    fc.assert(
      fc.property(anyBits(5), (bits) => {
        const own = (text: string) => intake(text).readings.some((r) => r.bits.equals(bits));
        expect(own(bits.toBinary())).toBe(true);
        expect(own(`hex: ${bits.toHex('right')} ${bits.length} bits`)).toBe(true);
        expect(own(`hex: ${bits.toHex('left')} ${bits.length} bits`)).toBe(true);
        expect(own(`dec: ${bits.toDecimal()} ${bits.length} bits`)).toBe(true);
      }),
    );
  });

  it('and no text at all breaks it', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (text) => {
        try {
          expect(intake(text).readings.length).toBeGreaterThan(0);
        } catch (error) {
          expect((error as RawBitsError).code).toMatch(/^[a-z0-9-]+$/);
        }
      }),
      { numRuns: 2000 },
    );
  });
});

describe('bad input says what, where and what to do', () => {
  it.each([
    ['', 'intake-empty', 'nothing here'],
    ['   ', 'intake-empty', 'nothing here'],
    ['1'.repeat(513), 'bits-length', '513 bits are too many'],
    ['28E4G94', 'intake-character', '"G" at column 5'],
    ['28E4O94', 'intake-character', '"O" at column 5'],
    ['hello', 'intake-character', '"h" at column 1'],
    ['28E 26 bits', 'hex-short', 'fewer than the 26'],
    ['FFFFFFFF 26 bits', 'hex-overflow', 'a 1 outside the 26 bits'],
    ['04 A2 3', 'hex-byte', '"3", item 3'],
    ['300,1', 'print-range', '300 is above 255'],
    ['71,70000', 'print-range', '70000 is above 65535'],
    ['53 80 0F 00 04 50 00 00 1A 00 A3 91 A5 00 00', 'osdp-crc', 'The CRC is 00 00'],
    ['53 80 08 00 04 40 69 C8', 'osdp-crc', 'The CRC is'],
    [';12', 'track-sentinel', 'end sentinel'],
    ['dec: 99999999 26 bits', 'decimal-width', 'needs 27 bits'],
    ['bin: 012', 'binary-digit', '"2" at column 3'],
    ['A391A5 600 bits', 'bits-length', '1 to 512'],
    ['a'.repeat(10_000_000), 'intake-long', '10,000,000 characters'],
  ])('%.20j', (text, code, message) => {
    try {
      intake(text);
      throw new Error('accepted');
    } catch (error) {
      expect(error).toMatchObject({ code });
      expect((error as Error).message).toContain(message);
    }
  });

  it('one bit is a read', () => {
    expect(taken('1')).toBe('binary: 1');
  });
});
