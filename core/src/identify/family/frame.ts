/**
 * The reads of a case as columns: for each position on which cards it is other than on the first one. Of a parity bit the
 * column is the exclusive or of those that it covers; so the covers that a position may have are looked up, not tried.
 */
import type { Bits } from '../../bits/index.ts';
import { columnsOfReads, differencesOf } from '../cards/columns.ts';
import { type Covers, coversOf, Sums, VectorSums } from './covers.ts';

/** Columns are summed as two words of so many bits, which make one number that is exact. */
const WORD = 26;
const MASK = 2 ** WORD - 1;

export class Frame {
  readonly length: number;
  readonly covers: Covers;
  /** By position from 0, a bit for each card but the first. */
  readonly columns: bigint[];
  /** Covers whose sum never changes. */
  readonly constant: number[] = [];
  private readonly byPosition: number[][];

  /** Grows with the square of the length; with the cards only as the columns do. */
  constructor(reads: readonly Bits[]) {
    this.length = reads[0]!.length;
    this.columns = columnsOfReads(reads).map((column) => differencesOf(column, reads.length));
    this.covers = coversOf(this.length);
    const folded = foldedColumns(this.columns, reads.length);
    const [low, high] = [new Sums(folded.low, true), new Sums(folded.high, true)];
    const exact = folded.isExact ? undefined : new VectorSums(this.columns);
    const keyOf = (one: number, other: number) => other * 2 ** WORD + one;
    const byKey = new Map<number, { column: bigint; fitting: number[] }[]>();
    this.byPosition = this.columns.map((column, p) => {
      if (column === 0n) return [];
      const key = keyOf(folded.low[p]!, folded.high[p]!);
      const alike = byKey.get(key) ?? [];
      byKey.set(key, alike);
      const known = alike.find((one) => one.column === column) ?? { column, fitting: [] };
      if (known.fitting.length === 0 && !alike.includes(known)) alike.push(known);
      return known.fitting;
    });
    const { count, first: from, last, kind } = this.covers;
    for (let i = 0; i < count; i++) {
      const [a, b, k] = [from[i]!, last[i]!, kind[i]!];
      const key = keyOf(low.over(a, b, k), high.over(a, b, k));
      if (key === 0) {
        if (!exact || exact.over(a, b, k) === 0n) this.constant.push(i);
        continue;
      }
      const alike = byKey.get(key);
      if (!alike) continue;
      if (!exact) alike[0]!.fitting.push(i);
      else {
        const sum = exact.over(a, b, k);
        alike.find(({ column }) => column === sum)?.fitting.push(i);
      }
    }
  }

  changes(position: number): boolean {
    return this.columns[position] !== 0n;
  }

  /** Covers whose sum is as the position that changes, or its complement. */
  fitting(position: number): readonly number[] {
    return this.byPosition[position]!;
  }
}

/**
 * The columns as two words each. Of more cards than there are bits in them a word is the exclusive or of one for each card on which the
 * position is other: columns that add up do so in their words, and what seems to add up is held against the columns themselves.
 */
function foldedColumns(columns: readonly bigint[], count: number) {
  const isExact = count - 1 <= 2 * WORD;
  const [low, high] = [new Int32Array(columns.length), new Int32Array(columns.length)];
  if (isExact) {
    columns.forEach((column, p) => {
      low[p] = Number(column & BigInt(MASK));
      high[p] = Number(column >> BigInt(WORD));
    });
    return { low, high, isExact };
  }
  const ones = wordsOf(count - 1);
  columns.forEach((column, p) => {
    const digits = column.toString(2);
    for (let i = 0; i < digits.length; i++) {
      if (digits.charCodeAt(i) !== ONE) continue;
      const [one, other] = ones[digits.length - 1 - i]!;
      low[p]! ^= one;
      high[p]! ^= other;
    }
  });
  return { low, high, isExact };
}
const ONE = '1'.charCodeAt(0);

/** Words that look random; which ones makes no difference to what is found. Marsaglia, Xorshift RNGs (2003), the triple 13, 17, 5. */
function wordsOf(count: number): (readonly [number, number])[] {
  let state = 1;
  const next = () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return state & MASK;
  };
  return Array.from({ length: count }, () => [next(), next()] as const);
}
