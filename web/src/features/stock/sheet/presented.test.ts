/** Cards held to a reader come into a list once each, beside what stands there; their prints with them. */
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { expect, it } from 'vitest';
import { fromCsv } from '../../../platform/files/csv.ts';
import { guessed } from './cardRows.ts';
import { cardOf, placeOf, withCard, withPrint } from './presented.ts';
import { sheetOf } from './table.ts';

const FORMAT = catalogued('26-8-16')!;
const bitsOf = (number: string): string => encode(FORMAT, { facility: '58', number }).toBinary();
const sheetFrom = (text: string) => {
  const sheet = sheetOf(text === '' ? [] : fromCsv(text));
  return { sheet, mapping: guessed(sheet) };
};

it('an empty list gets its headings with the first card, and the others after it', () => {
  let text = '';
  for (const number of ['11000', '11001']) {
    const card = cardOf(bitsOf(number), FORMAT);
    if ('not' in card) throw new Error(card.not);
    const { sheet, mapping } = sheetFrom(text);
    expect(placeOf(sheet, mapping, '', card)).toBe(-1);
    text = withCard(sheet, mapping, FORMAT, card);
  }
  const { sheet, mapping } = sheetFrom(text);
  expect([sheet.headings, sheet.rows]).toEqual([
    ['facility code', 'number', 'printed'],
    [
      ['58', '11000', ''],
      ['58', '11001', ''],
    ],
  ]);
  const printed = sheetFrom(withPrint(sheet, mapping, 0, '0011000')!);
  expect(printed.sheet.rows[0]).toEqual(['58', '11000', '0011000']);
  expect(placeOf(printed.sheet, printed.mapping, '', { facility: '58', number: '11001' })).toBe(1);
});

it('comes under the columns of a list that is there, and is found in it by the code of the sheet', () => {
  const { sheet, mapping } = sheetFrom('holder;number\nÅse Vik;0011000');
  expect(placeOf(sheet, mapping, '58', { facility: '58', number: '11000' })).toBe(0);
  expect(placeOf(sheet, mapping, '77', { facility: '58', number: '11000' })).toBe(-1);
  const next = sheetFrom(withCard(sheet, mapping, FORMAT, { facility: '58', number: '11001' }));
  expect(next.sheet.rows).toEqual([
    ['Åse Vik', '0011000'],
    ['', '11001'],
  ]);
  expect(withPrint(sheet, mapping, 0, '1')).toBeUndefined();
});

it('a read of another length, or whose parity fails, is told and taken for no card', () => {
  expect(cardOf('1'.repeat(37), FORMAT)).toEqual({ not: expect.stringContaining('37 bits') });
  const torn = bitsOf('5').replace(/.$/, (bit) => (bit === '1' ? '0' : '1'));
  expect(cardOf(torn, FORMAT)).toEqual({ not: expect.stringContaining('not read it in full') });
});
