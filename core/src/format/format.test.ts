import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyLayout } from '../../testing/anyLayout.ts';
import type { RawBitsError } from '../failure/index.ts';
import {
  expandRange,
  formatJsonSchema,
  formatSchema,
  isSound,
  layoutSchema,
  masksOf,
  parseLayoutLine,
  parseRange,
  positionsOf,
  printedOf,
  printLayoutLine,
  problemsOf,
  rangeOf,
} from './index.ts';

const failureFrom = (run: () => unknown) => {
  try {
    run();
  } catch (error) {
    return (error as RawBitsError).toFailure();
  }
  throw new Error('nothing was thrown');
};

describe('range lists, as Design §4 writes them out', () => {
  it.each([
    ['2-9', [2, 3, 4, 5, 6, 7, 8, 9]],
    ['2-4,14', [2, 3, 4, 14]],
    ['25-22', [25, 24, 23, 22]],
    ['3-4 by 3 to 34', [3, 4, 6, 7, 9, 10, 12, 13, 15, 16, 18, 19, 21, 22, 24, 25, 27, 28, 30, 31, 33, 34]],
    ['2-5 by 7 to 17', [2, 3, 4, 5, 9, 10, 11, 12, 16, 17]],
  ])('%s', (text, wanted) => {
    expect(positionsOf(text)).toEqual(wanted);
  });

  it('rangeOf and positionsOf are inverse', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 1, max: 512 }), { minLength: 1 }), (positions) => {
        expect(positionsOf(rangeOf(positions))).toEqual(positions);
      }),
    );
  });

  it.each([
    ['', 'range-empty', 1],
    ['2-9,x', 'range-syntax', 5],
    ['0-3', 'range-position', 1],
    ['9-2 by 3 to 30', 'range-step', 1],
    ['2-9 by 3 to 30', 'range-step', 1],
    ['2-5 by 3 to 17', 'range-step', 1],
    ['2-9,10-11 by 3 to 1', 'range-step', 5],
  ])('%j is refused as %s at column %i', (text, code, column) => {
    expect(failureFrom(() => parseRange(text))).toMatchObject({ code, where: { column } });
  });

  it('a hostile list does not fill the memory', () => {
    expect(failureFrom(() => expandRange(parseRange('1 by 1 to 999999999')))).toMatchObject({ code: 'range-long' });
  });
});

describe('the layout line', () => {
  it.each([
    '26 | 1 even 2-13 | 2-9 facility | 10-25 number | 26 odd 14-25',
    '35 | 1 odd 2-35 | 2 even 3-4 by 3 to 34 | 3-14 facility | 15-34 number | 35 odd 2-3 by 3 to 33',
    '32r | 1-32 number',
    '56rbi | 1-56 number | facility = 4100',
    '48 | 1-4 fixed 1010 | 5-14 value "tenant | \\"A\\"" | 15-32 facility bcd | 33-40 check xor8 1-32',
    '64 | 1-32 number | 33-48 check crc16(poly=1021,init=FFFF,reflectIn,reflectOut,xorOut=FFFF) 1-32',
    '200 | 6-25 value "agency" char5 | 196-200 check lrc5 1-195',
  ])('prints what it parsed: %s', (line) => {
    expect(printLayoutLine(parseLayoutLine(line))).toBe(line);
  });

  it('line, structure and JSON go round without loss, for random layouts up to 512 bits', () => {
    fc.assert(
      fc.property(anyLayout, (layout) => {
        expect(parseLayoutLine(printLayoutLine(layout))).toEqual(layout);
        expect(layoutSchema.parse(JSON.parse(JSON.stringify(layout)))).toEqual(layout);
        expect(problemsOf(layout).filter((p) => p.severity === 'error')).toEqual([]);
      }),
    );
  });

  it.each([
    ['', 'layout-empty', 1],
    ['600 | 1-600 number', 'layout-length', 1],
    ['0', 'layout-length', 1],
    ['26x | 1-2 number', 'layout-syntax', 3],
    ['26br', 'layout-syntax', 4],
    ['26 | 1 evn 2-13', 'layout-word', 8],
    ['26 | 1-', 'layout-syntax', 7],
    ['26 | number', 'layout-syntax', 6],
    ['26 | 2-9 facility 3', 'layout-syntax', 19],
    ['26 | 2-9 value tenant', 'layout-syntax', 16],
    ['26 | 2-9 check crc16(init=1) 1', 'layout-syntax', 16],
    ['26 | 2-9 check add8 10-17', 'layout-word', 16],
    ['26 | 2-9 check crc8(poly=7,poly=31) 10-17', 'layout-word', 28],
    ['26 | 2-9 check sum8(minus) 10-17', 'layout-syntax', 21],
    ['26 |', 'layout-syntax', 5],
    ['26 | 10-11 by 3 to 1 number | 12-25 value "x" | 1 even 2-13', 'range-step', 6],
    ['26 | 1 even 2-3 by 3 to 1', 'range-step', 13],
  ])('%j is refused as %s at column %i', (line, code, column) => {
    expect(failureFrom(() => parseLayoutLine(line))).toMatchObject({ code, where: { column } });
  });
});

describe('problems of a layout', () => {
  const codes = (line: string) => problemsOf(parseLayoutLine(line)).map((p) => p.code);
  it.each([
    ['8 | 1-4 number | 4-8 facility', ['overlap']],
    ['8 | 1-9 number', ['past-end', 'spare']],
    ['8 | 1-3 number', ['spare']],
    ['8 | 1-4 number | 5-8 number', ['twice']],
    ['8 | 1,1,2-7 number | 8 even 1-7', ['position-twice', 'spare']],
    ['8 | 1 even 1-7 | 2-8 number', ['covers-itself']],
    ['8 | 1-2 even 3-7 | 3-8 number', ['width']],
    ['8 | 1 even 2-8 | 8 odd 1-7 | 2-7 number', ['cycle']],
    ['9 | 1 even 2-8 | 8 odd 1-7 | 2-7 number | 9 even 1', ['cycle']],
    ['8 | 1-8 fixed 101', ['width']],
    ['8 | 1-7 number bcd | 8 even 1-7', ['width']],
    ['10 | 1-8 number | 9-10 check xor8 1-8', ['width']],
    ['16 | 1-8 number | 9-16 check crc8(poly=107) 1-8', ['crc-wide']],
    ['16 | 1-8 number | 9-16 check crc8(poly=7,init=1FF,xorOut=100) 1-8', ['crc-wide', 'crc-wide']],
    ['16 | 1-7 number | 8 fixed 0 | 9-16 check sum8 1-7', ['groups']],
    ['15 | 1-7 number | 8-15 check xor8 1-7', ['groups']],
    ['9r | 1-9 number', ['not-whole']],
    ['8 | 1-8 facility | facility = 3', ['twice']],
  ])('%s has %j', (line, wanted) => {
    expect(codes(line)).toEqual(wanted);
  });

  it('a run that names no position is an error, not something that comes up while decoding', () => {
    const span = (at: string, covers: string) => ({ role: 'parity', at, sense: 'even', covers });
    const layout = layoutSchema.parse({ bits: 26, spans: [span('1', '2-3 by 3 to 1'), span('4 by 2 to 3', '5')] });
    expect(problemsOf(layout).map((p) => [p.code, p.where?.field])).toEqual([
      ['range-step', 'spans.0.covers'],
      ['range-step', 'spans.1.at'],
      ['spare', 'bits'],
    ]);
    expect(isSound(layout)).toBe(false);
  });

  it('says in words which spans are concerned', () => {
    expect(problemsOf(parseLayoutLine('8 | 1-4 number | 4-8 facility'))[0]!.message).toBe(
      'Bit 4 belongs to both number and facility.',
    );
  });
});

describe('masks', () => {
  // DOMAIN §2, common practice: the mask of number 10-25 in 26 bits.
  it('of the open 26-bit format', () => {
    const masks = masksOf(parseLayoutLine('26 | 1 even 2-13 | 2-9 facility | 10-25 number | 26 odd 14-25'));
    expect(masks.number!.toBinary()).toBe('00000000011111111111111110');
    expect(masks.number!.toHex('right')).toBe('001FFFE');
    expect(masks['parity@26']!.toBinary()).toBe('00000000000001111111111110');
  });
});

describe('JSON', () => {
  const json = {
    schema: 'rawbits/format@1',
    id: '26-8-16',
    name: '26-bit, 8-bit facility code',
    bits: 26,
    spans: [
      { role: 'parity', at: '1', sense: 'even', covers: '2-13' },
      { role: 'facility', at: '2-9' },
      { role: 'number', at: '10-25' },
      { role: 'parity', at: '26', sense: 'odd', covers: '14-25' },
    ],
    arrives: { reverseBytes: false, reverseBits: false, invert: false },
  };

  it('of Design §4 parses to the layout line of Design §4', () => {
    expect(printLayoutLine(formatSchema.parse(json))).toBe(
      '26 | 1 even 2-13 | 2-9 facility | 10-25 number | 26 odd 14-25',
    );
  });

  it('refuses what the schema does not know, and says where', () => {
    const wrong = formatSchema.safeParse({ ...json, spans: [{ role: 'number', at: '0-3', colour: 'red' }] });
    expect(wrong.error!.issues.map((i) => i.path.join('.'))).toContain('spans.0');
    const range = formatSchema.safeParse({ ...json, spans: [{ role: 'number', at: '0-3' }] });
    expect(range.error!.issues[0]).toMatchObject({ path: ['spans', 0, 'at'], message: 'Positions count from 1.' });
  });

  it('has a published JSON Schema', () => {
    const schema = formatJsonSchema();
    expect(schema.$schema).toBe('https://json-schema.org/draft/2020-12/schema');
    expect(Object.keys(schema.properties as object)).toEqual(
      expect.arrayContaining(['schema', 'id', 'name', 'bits', 'spans', 'arrives']),
    );
  });
});

describe('what is printed on the cards of a format', () => {
  const of = (line: string) =>
    parseLayoutLine(`26 | 1 even 2-13 | 2-9 facility | 10-25 number | 26 odd 14-25 | print = ${line}`);
  const values = { facility: '58', number: '1023' };

  // DOMAIN §2, common practice: code and number in one decimal, the number in five places.
  it.each([
    ['facility and number', '5801023'],
    ['number + 5000', '6023'],
    ['number - 23', '1000'],
    ['facility and number + 7', '5801030'],
  ])('%s', (line, printed) => {
    expect(printedOf(of(line), values)).toBe(printed);
    expect(printLayoutLine(of(line)).endsWith(`| print = ${line}`)).toBe(true);
  });

  it('is its number where nothing is said, and nothing where it cannot be', () => {
    expect(printedOf({}, values)).toBe('1023');
    expect(printedOf(of('number - 5000'), values)).toBeUndefined();
    expect(printedOf(of('facility and number'), { facility: '1', number: '100000' })).toBeUndefined();
    expect(
      problemsOf(parseLayoutLine('8 | 1-8 number | print = facility and number')).map(({ code }) => code),
    ).toContain('print-facility');
    expect(problemsOf(parseLayoutLine('8 | 1-8 value "x" | print = number + 1')).map(({ code }) => code)).toContain(
      'print-number',
    );
    expect(() => of('colour')).toThrow('"number" or "facility and number"');
  });
});
