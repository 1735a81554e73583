import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyBits } from '../../testing/anyBits.ts';
import { randomFrom } from '../../testing/hiddenFormats.ts';
import { mutated, readText } from '../../testing/readTexts.ts';
import { isTried, runs, seedOr } from '../../testing/runs.ts';
import { Bits } from '../bits/index.ts';
import { CATALOGUE } from '../catalogue/index.ts';
import { CRC_OSDP, crcOfBytes } from '../check/index.ts';
import type { RawBitsError } from '../failure/index.ts';
import { buildOsdpFrame, RAW, rawReplyData } from '../line/index.ts';
import { type IntakeOptions, intake, readsIn } from './index.ts';

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
    expect(() => intake('71-9034 26 bits')).toThrow('of which a card has 24 bits, not 26');
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

describe('a read within other words', () => {
  const options = { lengths: [26, 37], formats: CATALOGUE };
  const READ = '28E4694';
  it.each([
    ['26 bits: 0x28E4694', ''],
    ['bits=26 data=028E4694', 'bits=26 data= …'],
    ['[26] 28E4694', ''],
    ['28E4694h', ''],
    ['"28E4694"', ''],
    ['26:28E4694', ''],
    ['26,28E4694', ''],
    ['28E4694:26', ''],
    ['28E4694,26', ''],
    ['28E4694 26', ''],
    ['26 28E4694', ''],
    ['26\t28E4694', ''],
    ['28E4694/26', ''],
    ['28E4694 (26)', ''],
    ['42878612 26', ''],
    ['26;42878612', ''],
    ['26 02 8E 46 94', ''],
    ['10100011100100011010010100 26', ''],
    ['26 10100011100100011010010100', ''],
    ['10100011100100011010010100/26', ''],
    ['1 01000111 0010001101001010 0, 26', ''],
    ['28E4694 bits 26', '… bits 26'],
    ["X'028E4694'", ''],
    ['$28E4694', ''],
    [String.raw`\x02\x8E\x46\x94`, ''],
    ['2026-11-26 14:03:22 28E4694 26 bits', '2026-11-26 14:03:22'],
    ['[14:03:22.113] 028E4694', '[14:03:22.113]'],
    ['Nov 26 14:03:22 28E4694', 'Nov 26 14:03:22'],
    ['card 28E4694 at door 3', 'card … at door 3'],
    ['reader 2: 26 bits 28E4694', 'reader 2: 26 bits …'],
    ['2026-11-26 14:03:22 reader 2: 26 bits 0x28E4694', '2026-11-26 14:03:22 reader 2: 26 bits …'],
    ['Card read: 0x28E4694 (26 bits)', 'Card read: … (26 bits)'],
    ['wiegand 26: 28E4694', 'wiegand 26: …'],
    ['Bits: 26, Data: 02 8E 46 94', 'Bits: 26, Data: …'],
    ['0000000000028E4694 26 bits', ''],
    ['A391A50000000000 26 bits', ''],
    ['\uFEFF28E4694', ''],
  ])('%s', (text, passedOver) => {
    const taken = intake(text, options);
    expect([taken.readings[0].bits.length, taken.readings[0].bits.toHex(), taken.passedOver]).toEqual([
      26,
      READ,
      passedOver,
    ]);
  });

  it.each([
    ['UID: 04 A2 3B 1C', 'uid 32 04A23B1C'],
    ['{0x02,0x8E}', 'hex 16 028E'],
    ['A4694 26 bits', 'hex 26 00A4694'],
    ['34 11111100 01110111 11111100 11101101 01', 'binary 34 3F1DFF3B5'],
    ['1842 26 bits', 'decimal 26 0000732'],
    ['10001110010001101001 26 bits', 'binary 26 008E469'],
    ['0B1F3C', 'hex 24 0B1F3C'],
    ['071,09034 0004662090', 'ten-digits 32 0047234A'],
    // ITU-T X.690 §8.1.3.5: the same bit string with its length in the long form.
    ['038107040A3B5F291CD0', 'ber-bit-string 44 0A3B5F291CD'],
  ])('%s', (text, first) => {
    expect(all(text, options)[0]).toBe(first);
  });

  it('where two readings are possible both are offered', () => {
    expect(all('26 028E4694', options)).toContain('hex 40 26028E4694');
    expect(all('0B10')).toEqual(['binary 2 2', 'hex 16 0B10']);
    expect(all('26,12345', options)).toEqual(['facility-number 24 1A3039', 'hex 26 0012345', 'decimal 26 0003039']);
    // Of a length that nobody uses only where a format of the library fits.
    expect(all('028E4694', { lengths: [], formats: CATALOGUE })).toContain('hex 26 28E4694');
    expect(all('028E4695', { lengths: [], formats: CATALOGUE })).not.toContain('hex 26 28E4695');
  });

  it.each([
    ['28E4694 and 118F', 'intake-two', '"28E4694" and "118F"'],
    ['bits=26 length=37 data=28E4694', 'intake-lengths', '26 and 37'],
    ['2024-11-26', 'intake-moment', 'is a day'],
    ['12:34:56', 'intake-moment', 'or a time'],
    ['11 345', 'hex-byte', 'not whole bytes'],
    ['2026/12', 'intake-character', '"/"'],
    ['1234;56', 'intake-two', '"1234" and "56"'],
    ['12.5', 'intake-character', 'no notation'],
    ['1.01', 'intake-character', 'no notation'],
    ['-5', 'intake-character', 'no notation'],
    ['FF 53?B7 10 00', 'intake-character', '"?" in "53?B7"'],
    ['FF ?3 C1 11 00', 'intake-character', '"?" in "?3"'],
    ['28E4694\n28E4695', 'intake-lines', '2 lines'],
  ])('%j is refused', (text, code, words) => {
    expect(() => intake(text)).toThrow(expect.objectContaining({ code, message: expect.stringContaining(words) }));
  });
});

describe('frames', () => {
  const bits = Bits.fromBinary('10001110010001101001010010');
  const frame = (data = rawReplyData(bits), code = RAW) =>
    hex(buildOsdpFrame({ address: 5, isReply: true, sequence: 2, code, data }));
  const ack = frame(new Uint8Array(), 0x40);

  it('of a stream the RAW replies are the reads', () => {
    const other = frame(rawReplyData(Bits.fromBinary('1100')));
    expect(
      readsIn(`FF${ack}FFFF${frame()}${ack}FF${other}`).map(({ readings }) => readings![0]!.bits.toBinary()),
    ).toEqual([bits.toBinary(), '1100']);
    expect(all(`${ack}${frame()}`)).toEqual([`osdp-raw 26 ${bits.toHex()}`]);
  });

  it.each([
    ['cut', frame().slice(0, -6), 'osdp-cut', 'but 13 are here'],
    ['with more behind it', `${frame()}0102`, 'osdp-tail', '2 bytes follow'],
    ['doubled in part', frame() + frame().slice(0, 12), 'osdp-cut', 'but 6 are here'],
    ['its first byte changed', `63${frame().slice(2)}`, 'osdp-som', 'but for its first byte'],
    ['its first digit lost', frame().slice(1), 'osdp-som', 'but for its first byte'],
    [
      'its head damaged',
      `${frame().slice(0, 6)}7${frame().slice(7, 8)}F${frame().slice(9)}`,
      'osdp-damaged',
      'its head',
    ],
    ['a sign in it', `${frame().slice(0, -3)}:${frame().slice(-2)}0`, 'osdp-crc', 'The CRC is'],
    ['no read', ack, 'osdp-not-raw', 'ACK'],
    ['its CRC wrong', `${frame().slice(0, -1)}${frame().endsWith('0') ? '1' : '0'}`, 'osdp-crc', 'The CRC is'],
  ])('%s: refused with what is wrong', (_, text, code, words) => {
    expect(() => intake(text)).toThrow(expect.objectContaining({ code, message: expect.stringContaining(words) }));
  });

  it('a checksum in place of a CRC is told apart, and held against its bytes', () => {
    const data = rawReplyData(bits);
    const body = [0x53, 0x85, 7 + data.length, 0, 2, RAW, ...data];
    const sum = -body.reduce((all, byte) => all + byte, 0) & 255;
    expect(intake(hex(Uint8Array.from([...body, sum]))).readings[0].note).toContain('the checksum agrees');
    expect(() => intake(hex(Uint8Array.from([...body, sum ^ 1])))).toThrow('The checksum is');
  });

  it('secured without its key: said so', () => {
    const data = rawReplyData(bits);
    const body = Uint8Array.from([0x53, 0x85, 11 + data.length, 0, 0x0e, 2, 0x17, RAW, ...data, 0]);
    const sum = Number(crcOfBytes(body, CRC_OSDP));
    expect(() => intake(hex(Uint8Array.from([...body, sum & 255, sum >> 8])))).toThrow('enciphered');
  });
});

describe('binary digits', () => {
  it('are the keys of a keypad where they can be, four bits each or eight with the complement', () => {
    const keys = (text: string) => intake(text).readings.find(({ notation }) => notation === 'keypad')?.note;
    expect(keys('0001 0010 1011')).toBe('The keys 1 2 #, four bits each.');
    expect(keys('11100001 11010010')).toBe('The keys 1 2, eight bits each, the first four the complement.');
    expect([keys('1100'), keys('11100010'), keys('00010')]).toEqual([undefined, undefined, undefined]);
  });

  it('are shown as characters of clock and data where sentinels, parity and LRC agree', () => {
    const [first] = intake('1101010000010001111111100').readings;
    expect([first.notation, first.note]).toEqual(['clock-and-data', 'The characters ;12?7']);
  });
});

it('runs of blanks, digits or signs as long as a text may be keep nobody waiting: what one takes would be seconds, not milliseconds', () => {
  const repeated = [' ', '0 ', '26 ', 'AB:', ' - ', ', ', '( ', 'bits '];
  const half = (piece: string) => piece.repeat(Math.floor(2000 / piece.length));
  const texts = repeated.flatMap((one) =>
    repeated.flatMap((other) =>
      ['0', '{', '[26]', 'uid:'].flatMap((start) =>
        ['x', ' bits', '}'].map((end) => `${start}${half(one)}0${half(other)}${end}`),
      ),
    ),
  );
  const began = performance.now();
  for (const text of texts.filter((_, i) => isTried(i, 7)))
    try {
      expect(intake(text).readings.length).toBeGreaterThan(0);
    } catch (error) {
      expect((error as RawBitsError).code).toMatch(/^[a-z0-9-]+$/);
    }
  // 768 texts (a seventh of them by default), milliseconds each; one of them alone took twenty seconds, and another, minutes.
  expect(performance.now() - began).toBeLessThan(60_000);
});

describe('several lines', () => {
  it('are several reads, each by itself, with the row of what is none', () => {
    const lines = readsIn('28E4694 26 bits\r\n\r\n071,09034\nnothing\n04 A2 3B 1C');
    expect(lines.map(({ row, readings, failure }) => [row, readings?.[0]?.notation ?? failure?.code])).toEqual([
      [1, 'hex'],
      [3, 'facility-number'],
      [4, 'intake-character'],
      [5, 'uid'],
    ]);
    expect(lines[2]!.failure!.where).toMatchObject({ row: 4 });
  });
});

it('more lines than can be looked through are refused, unread', () => {
  expect(readsIn('1010\n'.repeat(2000))).toHaveLength(2000);
  expect(() => readsIn('1010\n'.repeat(200_000))).toThrow(
    expect.objectContaining({
      code: 'intake-many',
      where: { row: 2001 },
      message: expect.stringContaining('200,000 lines'),
    }),
  );
});

describe('texts made from true reads by every rule', () => {
  it('have the read among their readings; damaged, no frame is taken for another read, and nothing breaks', () => {
    const random = randomFrom(seedOr(12));
    for (let i = 0; i < runs(6000); i++) {
      const length = 9 + Math.floor(random() * 240);
      const one = readText(
        random,
        Bits.build(length, () => random() < 0.5),
      );
      const own = (text: string) => intake(text, { lengths: [26], formats: CATALOGUE }).readings;
      expect([one.text, own(one.text).some(({ bits }) => bits.equals(one.bits))]).toEqual([one.text, true]);
      const slipped = mutated(random, one.text);
      try {
        const after = own(slipped);
        if (one.isGuarded) expect([slipped, after.every(({ bits }) => bits.equals(one.bits))]).toEqual([slipped, true]);
      } catch (error) {
        expect([slipped, (error as RawBitsError).code]).toEqual([slipped, expect.stringMatching(/^[a-z0-9-]+$/)]);
      }
    }
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
      { numRuns: runs(2000) },
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
    ['02 8E 26 bits', 'hex-short', 'fewer than the 26'],
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
