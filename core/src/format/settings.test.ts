import BitSet from 'bitset';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyLayout } from '../../testing/anyLayout.ts';
import { failureOf } from '../failure/index.ts';
import {
  layoutFromSheet,
  maskPositions,
  masksOf,
  maskTexts,
  parseLayoutLine,
  positionsOf,
  printLayoutLine,
  settingsOf,
  settingsRows,
} from './index.ts';

const OPEN_26 = parseLayoutLine('26 | 1 even 2-13 | 2-9 facility | 10-25 number | 26 odd 14-25');
const asked = (item: string, setting: string) =>
  settingsOf(OPEN_26).find((s) => s.item === item && s.setting === setting)?.value;

describe('the settings sheet', () => {
  // DOMAIN §2, common practice: how set-up asks for a format; the mask of number 10-25 is the one given there.
  it.each([
    ['number', 'start, from the first bit, counted from 1', '10'],
    ['number', 'start, from the first bit, counted from 0', '9'],
    ['number', 'start, from the last bit, counted from 1', '2'],
    ['number', 'start, from the last bit, counted from 0', '1'],
    ['number', 'length', '16'],
    ['number', 'mask, binary', '00000000011111111111111110'],
    ['number', 'mask, hex right-justified', '001FFFE'],
    ['facility', 'position list', '2,3,4,5,6,7,8,9'],
    ['parity 1', 'side', 'leading'],
    ['parity 26', 'covered bits, binary', '00000000000001111111111110'],
    ['format', 'even parity bits', '1'],
    ['format', 'facility code', 'in the bits'],
    ['format', 'whole string as one number: mask, hex', '3FFFFFF'],
  ])('%s: %s is %s', (item, setting, value) => {
    expect(asked(item, setting)).toBe(value);
  });

  it('line, sheet and line go round without loss, for random layouts up to 512 bits', () => {
    fc.assert(
      fc.property(anyLayout, (layout) => {
        expect(printLayoutLine(layoutFromSheet(settingsRows(settingsOf(layout))))).toBe(printLayoutLine(layout));
      }),
    );
  });

  it('masks agree with a bit set of the registry, and give rising spans back', () => {
    fc.assert(
      fc.property(anyLayout, (layout) => {
        for (const [label, mask] of Object.entries(masksOf(layout))) {
          const span = layout.spans.find((s) => (s.role === 'value' ? s.label : s.role) === label);
          const wanted = new BitSet();
          const at = span?.at ?? (layout.spans.find((s) => `${s.role}@${s.at}` === label) as { covers: string }).covers;
          for (const p of positionsOf(at)) wanted.set(layout.bits - p, 1);
          expect(mask.toBigInt().toString(16)).toBe(wanted.toString(16).toLowerCase());
          const rising = [...positionsOf(at)].sort((a, b) => a - b);
          for (const text of [maskTexts(mask).binary, `0x${maskTexts(mask).hexRight}`])
            expect(maskPositions(text, layout.bits)).toEqual(rising);
          expect(maskPositions(maskTexts(mask).hexLeft, layout.bits, 'left')).toEqual(rising);
        }
      }),
      { numRuns: 50 },
    );
  });

  it('a sheet typed back, start and length or masks, makes the format', () => {
    const typed = [
      ['bits 26'],
      ['facility mask 1FE0000'],
      ['number start 9 length 16'],
      ['even 0 covers 1-12'],
      ['odd 25 covers 13-24'],
    ];
    expect(printLayoutLine(layoutFromSheet(typed, 0))).toBe(
      '26 | 2-9 facility | 10-25 number | 1 even 2-13 | 26 odd 14-25',
    );
    expect(() => layoutFromSheet([['bits 26'], ['colour blue']])).toThrow('"colour blue" is no setting.');
    // Blanks are one, as many as there are; in a label they stay. Thousands of them would have been tried in every way.
    const wide = ' '.repeat(3000);
    expect(
      printLayoutLine(
        layoutFromSheet([['bits   8'], [`number${wide}start 1  length${wide}4`], ['value "a  b" positions 5-8']]),
      ),
    ).toBe('8 | 1-4 number | 5-8 value "a  b"');
    expect(() => layoutFromSheet([['bits 26'], [`colour${wide}${wide}`]])).toThrow('is no setting.');
    expect(failureOf(catching(() => layoutFromSheet([['number start 1 length 4']]))).code).toBe('sheet-bits');
  });

  it('an offset, and a facility code that no bit carries', () => {
    const settings = settingsOf(parseLayoutLine('56r | 1-56 number | facility = 4100'), { offset: -7n });
    expect(settings.find((s) => s.setting === 'offset added to the number')?.value).toBe('-7');
    expect(settings.find((s) => s.setting === 'facility code')).toMatchObject({ value: '4100' });
    expect(settings.find((s) => s.setting === 'bytes arrive reversed')?.value).toBe('yes');
  });
});

describe('a sheet as people write it', () => {
  const LINE = '26 | 2-9 facility | 10-25 number | 1 even 2-13 | 26 odd 14-25';
  const rest = [['26 bits'], ['even parity bit 1 covers 2-13'], ['parity odd 26 over 14-25']];
  const line = (rows: string[][], firstIs: 0 | 1 = 1) => printLayoutLine(layoutFromSheet(rows, firstIs));

  it.each([
    ['Site code positions 2-9', 'Card number start 10 length 16'],
    ['FC: start bit 2, bits 8', 'card no: bits 10-25'],
    ['facility code mask 1FE0000', 'ID mask 0x001FFFE'],
  ])('%s · %s', (facility, number) => {
    expect(line([[facility], [number], ...rest])).toBe(LINE);
  });

  it('a typed line that was cut at its commas is whole again', () => {
    const cut = (text: string) => text.split(',');
    expect(line([['26 bits'], cut('facility positions 2,3,4,5-9'), cut('number positions 10-20, 21-25')])).toBe(
      '26 | 2,3,4,5-9 facility | 10-20,21-25 number',
    );
  });

  it('counted from 0: positions, covers and parity bits, typed and in rows; steps stay steps', () => {
    const rows = [
      ['bits 35'],
      ['parity 34', 'sense', 'Odd'],
      ['parity 34', 'covers', '1-2 by 3 to 32'],
      ['card number', 'position list', '14,15,16,17'],
      ['facility', 'positions', '2-13'],
      ['odd 0 covers 1-34'],
    ];
    expect(line(rows, 0)).toBe('35 | 35 odd 2-3 by 3 to 33 | 15-18 number | 3-14 facility | 1 odd 2-35');
  });

  it('a field of 0 bits is none; yes is yes in every spelling', () => {
    const rows = [
      ['Format', 'Total bits', '32'],
      ['format', 'bytes arrive reversed', 'TRUE'],
      ['format', 'arrives inverted', '1'],
      ['format', 'bits arrive reversed', 'No'],
      ['facility', 'start', '1'],
      ['facility', 'length', '0'],
      ['number', 'positions', '1-32'],
    ];
    expect(line(rows)).toBe('32ri | 1-32 number');
  });

  it.each([
    ['an unknown setting', [['number', 'colour', 'blue']], 'sheet-setting', 2],
    ['an unknown field', [['engraving start 1 length 4']], 'sheet-name', 2],
    [
      'two rows that contradict',
      [
        ['number', 'length', '16'],
        ['card number', 'length', '17'],
      ],
      'sheet-contradicts',
      3,
    ],
    [
      'a mask against a start',
      [['number start 10 length 16'], ['number', 'mask, binary', '00000000001111111111111110']],
      'sheet-contradicts',
      3,
    ],
    [
      'a length against positions',
      [
        ['number', 'positions', '10-25'],
        ['number', 'length', '15'],
      ],
      'sheet-contradicts',
      3,
    ],
    [
      'covers against their mask',
      [['even 1 covers 2-13'], ['parity 1', 'covered bits, hex right-justified', '1FFF000']],
      'sheet-contradicts',
      3,
    ],
    ['a count of parity bits', [['format', 'even parity bits', '2'], ['even 1 covers 2-13']], 'sheet-contradicts', 2],
    ['neither yes nor no', [['format', 'arrives inverted', 'maybe']], 'sheet-yes', 2],
    ['a mask of another length', [['number mask 00001FFFE0']], 'mask-length', 2],
    ['a start alone', [['number', 'start', '10']], 'sheet-line', 2],
  ])('%s is refused by its row', (_, rows, code, row) => {
    expect(failureOf(catching(() => layoutFromSheet([['bits 26'], ...(rows as string[][])])))).toMatchObject({
      code,
      where: { row },
    });
  });

  it('says where the bits stand as they arrive, and that a mask loses an order that falls', () => {
    const of = (line: string, item: string, setting: string) =>
      settingsOf(parseLayoutLine(line)).find((s) => s.item === item && s.setting === setting);
    // Four bytes, the last one first: bit 1 of the number comes as the 25th.
    expect(of('32r | 1-32 number', 'number', 'positions as they arrive')?.value).toBe('25-32,17-24,9-16,1-8');
    expect(of('26b | 10-25 number', 'number', 'positions as they arrive')?.value).toBe('17-2');
    expect(of('26b | 10-25 number', 'number', 'mask as they arrive, hex right-justified')).toMatchObject({
      value: '1FFFE00',
      note: 'a mask loses the order: the most significant bit is 17, the least 2',
    });
    expect(of('26 | 25-10 number', 'number', 'mask, binary')?.note).toContain('loses the order');
    expect(of('26 | 10-25 number', 'number', 'positions as they arrive')).toBeUndefined();
    expect(of('26 | 10-25 number', 'number', 'mask, binary')?.note).toBeUndefined();
  });
});

it('a mask in hex may begin with 0B, which is no binary prefix then', () => {
  expect(maskPositions('0BC', 10, 'left')).toEqual([5, 7, 8, 9, 10]);
  expect(maskPositions('0b0000101111', 10)).toEqual([5, 7, 8, 9, 10]);
});

describe('masks that are none', () => {
  it.each([
    ['', 'mask-empty'],
    ['0', 'mask-empty'],
    ['1FEG', 'mask-digits'],
    ['4000000', 'hex-overflow'],
    ['01111111', 'mask-length'],
  ])('%j is refused as %s', (text, code) => {
    expect(failureOf(catching(() => maskPositions(text, 26))).code).toBe(code);
  });
});

function catching(work: () => unknown): unknown {
  try {
    return work();
  } catch (error) {
    return error;
  }
}
