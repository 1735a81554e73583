/** The byte map: rows of sixteen, brackets that go on over rows, and fields that are moved without moving others. */
import type { Field } from '@rawbits/core/plan';
import { expect, it } from 'vitest';
import { bracketsIn, fieldWords, moved, resized, rowsOf } from './geometry.ts';

const field = (name: string, length: number, at?: number): Field => ({
  name,
  length,
  ...(at !== undefined && { at }),
  content: { is: 'fixed', hex: '' },
});
const FIELDS = [field('mark', 2), field('name', 20), field('crc', 2, 30)];

it('sixteen bytes a row; free and over are told apart', () => {
  const rows = rowsOf(FIELDS, 28);
  expect(rows.map((row) => row.length)).toEqual([16, 16]);
  expect(rows[1]!.map(({ of }) => of)).toEqual([
    1,
    1,
    1,
    1,
    1,
    1,
    'free',
    'free',
    'free',
    'free',
    'free',
    'free',
    'over',
    'over',
    'over',
    'over',
  ]);
});

it('a field that goes on in the next row has a bracket in each, open where it goes on', () => {
  expect(bracketsIn(FIELDS, 0)).toEqual([
    { field: 0, from: 0, to: 2, begins: true, ends: true },
    { field: 1, from: 2, to: 16, begins: true, ends: false },
  ]);
  expect(bracketsIn(FIELDS, 1)).toEqual([
    { field: 1, from: 0, to: 6, begins: false, ends: true },
    { field: 2, from: 14, to: 16, begins: true, ends: true },
  ]);
});

it('moving and resizing one leaves the others where they stand, and stops at the file’s beginning', () => {
  expect(moved(FIELDS, 0, 5).map(({ at }) => at)).toEqual([5, 2, 30]);
  expect(moved(FIELDS, 1, -9)[1]!.at).toBe(0);
  expect(resized(FIELDS, 0, 3).map(({ length, at }) => [length, at])).toEqual([
    [5, undefined],
    [20, 2],
    [2, 30],
  ]);
  expect(resized(FIELDS, 0, -9)[0]!.length).toBe(1);
  expect(fieldWords(FIELDS, 1)).toBe('name: bytes 2 to 21, 20 long');
});
