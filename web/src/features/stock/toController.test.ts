/** From print to what a controller compares: the same columns whatever the length, each as the raw bits say. */
import { Bits } from '@rawbits/core/bits';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { explain } from '@rawbits/core/translate';
import { expect, it } from 'vitest';
import { wayHead, wayOf } from './toController.ts';

const translations = [
  {
    ...{ id: 't', name: 'Shed to lab', notes: '', createdBy: '', createdAt: '', revision: 1 },
    translation: explain([{ a: '04A23B1C', b: '1C3BA204' }]).explanations[0]!.translation,
  },
];
const column = (row: string[], name: string): string | undefined => row[wayHead(translations).indexOf(name)];

it('has each way of showing a card in a column of its own, under any length', () => {
  const bits = encode(catalogued('26-8-16')!, { facility: '58', number: '1023' }).toBinary();
  const row = wayOf({ printed: '', facility: '58', number: '1023', bits }, translations);
  expect(row).toHaveLength(wayHead(translations).length);
  expect(row.slice(0, 3)).toEqual(['1023', '58', '1023']);
  expect(BigInt(`0b${bits}`).toString()).toBe(column(row, 'raw decimal'));
  expect(Number.parseInt(bits, 2).toString(16).toUpperCase()).toBe(column(row, 'raw hex')!.replace(/^0+/, ''));
  expect(column(row, 'by Shed to lab')).toBe(column(row, 'raw hex, bytes reversed'));
  const uid = Bits.fromHex('04A23B1C').toBinary();
  const long = wayOf({ printed: '4711', facility: null, number: '77740828', bits: uid }, translations);
  expect([long[0], column(long, 'raw hex, bytes reversed'), column(long, 'by Shed to lab')]).toEqual([
    ...['4711', '1C3BA204', '1C3BA204'],
  ]);
  const unknown = wayOf({ printed: '', facility: null, number: '5', bits: null }, translations);
  expect([unknown.length, unknown.filter(Boolean)]).toEqual([row.length, ['5', '5']]);
  expect(new Set(wayHead(translations)).size).toBe(row.length);
});
