/** Columns: the specimens' bits turned on their side, one vector over the specimens for each position or number bit. */

import type { Bits } from '../../bits/index.ts';
import { popcount32 } from '../../bits/index.ts';

/** One bit a specimen, left-justified in 32-bit words. */
export type Column = Uint32Array;

export const columnWords = (count: number): number => (count + 31) >>> 5;

/** A column with a 1 for every specimen. */
export function fullColumn(count: number): Column {
  const column = new Uint32Array(columnWords(count)).fill(0xffffffff);
  if (count & 31) column[column.length - 1] = (-1 << (32 - (count & 31))) >>> 0;
  return column;
}

/** The columns of reads of one length, by position from 0. */
export function columnsOfReads(reads: readonly Bits[]): Column[] {
  const length = reads[0]!.length;
  const columns = Array.from({ length }, () => new Uint32Array(columnWords(reads.length)));
  reads.forEach(({ words }, i) => {
    const [at, bit] = [i >>> 5, 0x80000000 >>> (i & 31)];
    for (let w = 0; w < words.length; w++) {
      let left = words[w]!;
      while (left !== 0) {
        const lead = Math.clz32(left);
        columns[w * 32 + lead]![at]! |= bit;
        left &= ~(0x80000000 >>> lead);
      }
    }
  });
  return columns;
}

/** The columns of numbers, by power of two from 0, as many as the greatest number needs and at least one. */
export function columnsOfNumbers(numbers: readonly bigint[]): Column[] {
  const width = Math.max(1, ...numbers.map((n) => (n === 0n ? 1 : n.toString(2).length)));
  const columns = Array.from({ length: width }, () => new Uint32Array(columnWords(numbers.length)));
  numbers.forEach((number, i) => {
    const text = number.toString(2);
    for (let k = 0; k < text.length; k++)
      if (text.charCodeAt(text.length - 1 - k) === 49) columns[k]![i >>> 5]! |= 0x80000000 >>> (i & 31);
  });
  return columns;
}

/** For each specimen but the first, whether it is other than that one: specimen i (from 0) is bit i - 1. */
export function differencesOf(column: Column, count: number): bigint {
  const isTurned = column[0]! >>> 31 === 1;
  let hex = '0x';
  for (let w = column.length - 1; w >= 0; w--)
    hex += reversed(column[w]! ^ (isTurned ? fullWord(w, count) : 0))
      .toString(16)
      .padStart(8, '0');
  return BigInt(hex) >> 1n;
}

/** A word with its bits in the other order. */
export function reversed(word: number): number {
  let turned = ((word >>> 1) & 0x55555555) | ((word & 0x55555555) << 1);
  turned = ((turned >>> 2) & 0x33333333) | ((turned & 0x33333333) << 2);
  turned = ((turned >>> 4) & 0x0f0f0f0f) | ((turned & 0x0f0f0f0f) << 4);
  turned = ((turned >>> 8) & 0x00ff00ff) | ((turned & 0x00ff00ff) << 8);
  return ((turned >>> 16) | (turned << 16)) >>> 0;
}

export const isZero = (column: Column): boolean => column.every((word) => word === 0);
export const isFull = (column: Column, count: number): boolean =>
  column.every((word, w) => word === fullWord(w, count));
const fullWord = (w: number, count: number): number =>
  w * 32 + 32 <= count ? 0xffffffff : (-1 << (32 - (count - w * 32))) >>> 0;
export const varies = (column: Column, count: number): boolean => !isZero(column) && !isFull(column, count);

export const sameColumn = (a: Column, b: Column): boolean => a.every((word, w) => word === b[w]);
export const ones = (column: Column): number => column.reduce((sum, word) => sum + popcount32(word), 0);

export function xorColumns(columns: readonly Column[], words: number): Column {
  const sum = new Uint32Array(words);
  for (const column of columns) for (let w = 0; w < words; w++) sum[w]! ^= column[w]!;
  return sum;
}

/** The indices at which a column has a 1. */
export function indicesOf(column: Column): number[] {
  const list: number[] = [];
  column.forEach((word, w) => {
    for (let left = word; left !== 0; ) {
      const lead = Math.clz32(left);
      list.push(w * 32 + lead);
      left &= ~(0x80000000 >>> lead);
    }
  });
  return list;
}
