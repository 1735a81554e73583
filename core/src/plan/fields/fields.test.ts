/** Fields of data files: their bytes worked out by hand, and what was put in read back. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { catalogued } from '../../catalogue/index.ts';
import { hexOf } from '../../cipher/index.ts';
import { encode } from '../../codec/index.ts';
import { byteMap, bytesOfFields, type Field, fieldSchema, fieldsIn, problemsOfFields } from './index.ts';

const field = (name: string, length: number, content: object, more: object = {}): Field =>
  fieldSchema.parse({ name, length, content, ...more });
const KNOWN = {
  values: { number: '118406', facility: '2214', holder: 'Bård Nes', until: '2027-02-28', loans: '3' },
  bits: encode(catalogued('26-8-16')!, { facility: '71', number: '9034' }),
};
const one = (length: number, content: object) => hexOf(bytesOfFields([field('f', length, content)], length, KNOWN));

describe('the bytes of a field', () => {
  it.each([
    ['fixed, with zeros after it', 4, { is: 'fixed', hex: 'CA FE' }, 'CAFE0000'],
    ['a number, most significant byte first', 4, { is: 'number', of: 'number' }, '0001CE86'],
    ['a number, least significant byte first', 4, { is: 'number', of: 'number', order: 'little' }, '86CE0100'],
    ['packed decimal digits', 4, { is: 'number', of: 'number', as: 'bcd' }, '00118406'],
    ['UTF-8: å has two bytes (RFC 3629 §3)', 10, { is: 'text', of: 'holder' }, '42C3A57264204E657300'],
    [
      'a text at the right, filled with spaces',
      11,
      { is: 'text', of: 'holder', align: 'right', pad: '20' },
      '202042C3A57264204E6573',
    ],
    ['a day in packed digits', 4, { is: 'day', of: 'until' }, '20270228'],
    ['a day in characters', 8, { is: 'day', of: 'until', as: 'ascii' }, '3230323730323238'],
    // 71/9034 of the open format is 28E4694, right-justified in 26 bits (guide, "What can be pasted"); six bits further left A391A500.
    ['the bits of a format, from the first bit on', 4, { is: 'bits' }, 'A391A500'],
    ['the bits of a format, to the last bit', 4, { is: 'bits', align: 'right' }, '028E4694'],
  ])('%s', (_, length, content, hex) => {
    expect(one(length, content)).toBe(hex);
  });

  it('a check over other fields: CRC-16 of "123456789" is 29B1 (poly 1021, init FFFF, the catalogues’ check value)', () => {
    const fields = [
      field('digits', 9, { is: 'fixed', hex: '313233343536373839' }),
      field('crc', 2, { is: 'check', over: ['digits'], poly: '1021', init: 'FFFF' }),
    ];
    expect(hexOf(bytesOfFields(fields, 12, KNOWN))).toBe('31323334353637383929B100');
  });

  it.each([
    ['a text too long', 4, { is: 'text', of: 'holder' }, 'has 9'],
    ['a letter that ASCII has not', 20, { is: 'text', of: 'holder', charset: 'ascii' }, '"å" is none'],
    ['a number too great', 2, { is: 'number', of: 'number' }, 'has more digits'],
    ['what is no number', 4, { is: 'number', of: 'holder' }, 'takes a whole number, not "Bård Nes"'],
    ['what is no day', 4, { is: 'day', of: 'number' }, 'takes a day such as'],
    ['what is not known', 4, { is: 'text', of: 'department' }, 'which is not known of this card'],
    ['a name of the language', 4, { is: 'text', of: 'constructor' }, 'which is not known of this card'],
    ['more bits than there is room for', 3, { is: 'bits' }, '26 bits need 4'],
  ])('%s is refused, naming the field', (_, length, content, message) => {
    expect(() => one(length, content)).toThrow(message);
  });

  it('29 February is a day in leap years alone', () => {
    const day = (until: string) => bytesOfFields([field('d', 4, { is: 'day', of: 'until' })], 4, { values: { until } });
    expect(hexOf(day('2028-02-29'))).toBe('20280229');
    for (const none of ['2027-02-29', '2100-02-29', '2027-13-01', '2027-00-10', '2027-04-31'])
      expect(() => day(none)).toThrow('takes a day');
  });
});

describe('the fields of a file', () => {
  it('follow one another unless they say where they stand; what lies wrong is told', () => {
    const fields = [
      field('a', 4, { is: 'fixed', hex: '' }),
      field('b', 2, { is: 'fixed', hex: '010203' }),
      field('c', 4, { is: 'number', of: 'number' }, { at: 5 }),
      field('a', 30, { is: 'day', of: 'until' }),
      field('e', 2, { is: 'check', over: ['later'], poly: '07' }),
    ];
    expect(problemsOfFields(fields, 32).map(({ code, field: at }) => `${code} ${at}`)).toEqual([
      'too-long 1',
      'overlap 2',
      'over 3',
      'doubled 3',
      'day-length 3',
      'over 4',
      'check-length 4',
      'check-over 4',
    ]);
    const map = byteMap(fields.slice(0, 3), 12);
    expect(map.map((owner) => (typeof owner === 'number' ? owner : owner[0])).join('')).toBe('000012222fff');
    expect(byteMap(fields.slice(0, 1), 2)).toEqual([0, 0, 'over', 'over']);
  });

  it('are read back as they were put in, whatever that was', () => {
    const number = fc.bigInt({ min: 0n, max: (1n << 40n) - 1n }).map(String);
    const text = fc
      .string({ unit: 'grapheme', maxLength: 12 })
      .filter((t) => !t.includes('\u0000') && t.isWellFormed());
    fc.assert(
      fc.property(
        number,
        text,
        fc.constantFrom('big', 'little'),
        fc.constantFrom('binary', 'bcd'),
        (value, holder, order, as) => {
          const length = as === 'bcd' ? 7 : 5;
          const fields = [
            field('number', length, { is: 'number', of: 'number', order, as }),
            field('holder', 200, { is: 'text', of: 'holder' }),
            field('until', 4, { is: 'day', of: 'until' }),
            field('check', 4, {
              is: 'check',
              over: ['number', 'holder'],
              poly: '04C11DB7',
              init: 'FFFFFFFF',
              reflect: true,
              order,
            }),
          ];
          const bytes = bytesOfFields(fields, 256, { values: { number: value, holder, until: '2027-02-28' } });
          const back = fieldsIn(fields, bytes);
          expect(back.slice(0, 3).map((f) => f.value)).toEqual([value, holder, '2027-02-28']);
          expect(back.every(({ holds }) => holds)).toBe(true);
          bytes[0]! ^= 1;
          expect(fieldsIn(fields, bytes).at(-1)!.holds).toBe(false);
        },
      ),
    );
  });

  it('a file that is too short, or holds something else, is read as hex and does not hold', () => {
    const fields = [field('day', 4, { is: 'day', of: 'until' }), field('text', 2, { is: 'text', of: 'holder' })];
    expect(fieldsIn(fields, Uint8Array.of(0x20, 0x27, 0x99, 0x99, 0xc3))).toEqual([
      { name: 'day', value: '20279999', holds: false },
      { name: 'text', value: 'C3', holds: false },
    ]);
  });
});
