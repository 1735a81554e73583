/**
 * The reads of a case as columns: for each position on which cards it is other than on the first one. Of a parity bit the
 * column is the exclusive or of those that it covers; so the covers that a position may have are looked up, not tried.
 */
import type { Bits } from '../../bits/index.ts';
import { type Covers, coversOf, VectorSums } from './covers.ts';

export class Frame {
  readonly length: number;
  readonly covers: Covers;
  /** By position from 0, a bit for each card but the first. */
  readonly columns: bigint[];
  /** Covers whose sum never changes. */
  readonly constant: number[] = [];
  private readonly byColumn = new Map<bigint, number[]>();

  constructor(reads: readonly Bits[]) {
    const [first] = reads as [Bits];
    this.length = first.length;
    this.columns = Array.from({ length: this.length }, (_, p) => {
      let column = 0n;
      for (let i = reads.length - 1; i > 0; i--)
        column = (column << 1n) | BigInt(reads[i]!.at(p + 1) ^ first.at(p + 1));
      return column;
    });
    this.covers = coversOf(this.length);
    const sums = new VectorSums(this.columns);
    for (const column of this.columns) if (column !== 0n) this.byColumn.set(column, []);
    const { count, first: from, last, kind } = this.covers;
    for (let i = 0; i < count; i++) {
      const sum = sums.over(from[i]!, last[i]!, kind[i]!);
      if (sum === 0n) this.constant.push(i);
      else this.byColumn.get(sum)?.push(i);
    }
  }

  changes(position: number): boolean {
    return this.columns[position] !== 0n;
  }

  /** Covers whose sum is as the position that changes, or its complement. */
  fitting(position: number): readonly number[] {
    return this.byColumn.get(this.columns[position]!) ?? [];
  }
}
