/**
 * Covers: what a parity bit of the family can cover. Every interval of the read; in one, every second or third bit, or two of
 * three. Whole halves and clipped spans are intervals; a cover around the parity bit leaves it out.
 *
 * A cover is its first and last position and its kind; all sums over covers come out of prefix sums, so that each costs the same
 * however long it is.
 */

/** `two, then none`: 1 1 0 1 1 0 …; `one, none, then two`: 1 0 1 1 0 1 …. */
export const KINDS = ['all', 'every second', 'every third', 'two, then none', 'one, none, then two'] as const;
export type CoverKind = 0 | 1 | 2 | 3 | 4;

export interface Covers {
  /** Positions from 0. */
  first: Int32Array;
  last: Int32Array;
  kind: Uint8Array;
  count: number;
}

/** Whether a cover of a kind has the bit `at` places after its first. */
export function hasPlace(kind: CoverKind, at: number): boolean {
  if (kind === 0) return true;
  if (kind === 1) return at % 2 === 0;
  if (kind === 2) return at % 3 === 0;
  return at % 3 !== (kind === 3 ? 2 : 1);
}

/** The least distance from the first bit to the last at which a kind is no cover of a simpler one. */
const LEAST = [0, 2, 3, 3, 3] as const;

/** Those of the last length that was asked for: a case has one. */
let last: { length: number; covers: Covers } | undefined;

/** All covers in a read of a length, each set of bits once. Grows with the square of the length. */
export function coversOf(length: number): Covers {
  if (last?.length === length) return last.covers;
  const list: [number, number, CoverKind][] = [];
  for (let from = 0; from < length; from++)
    for (let to = from; to < length; to++)
      for (const kind of [0, 1, 2, 3, 4] as const)
        if (to - from >= LEAST[kind] && hasPlace(kind, to - from)) list.push([from, to, kind]);
  const covers: Covers = {
    first: Int32Array.from(list, ([first]) => first),
    last: Int32Array.from(list, ([, to]) => to),
    kind: Uint8Array.from(list, ([, , kind]) => kind),
    count: list.length,
  };
  last = { length, covers };
  return covers;
}

export function covers({ first, last, kind }: Covers, i: number, position: number): boolean {
  const at = position - first[i]!;
  return at >= 0 && position <= last[i]! && hasPlace(kind[i] as CoverKind, at);
}

/** Prefix sums of numbers, from which the sum over any cover is taken. */
export class Sums {
  private readonly by: [Int32Array, Int32Array, Int32Array];

  /** `xor` where the sum is an exclusive or. */
  constructor(
    values: ArrayLike<number>,
    private readonly xor: boolean,
  ) {
    const { length } = values;
    this.by = [1, 2, 3].map((step) => {
      const sums = new Int32Array(length + 3);
      for (let i = 0; i < length; i++) {
        const before = sums[i + 3 - step]!;
        sums[i + 3] = xor ? before ^ values[i]! : before + values[i]!;
      }
      return sums;
    }) as typeof this.by;
  }

  over(first: number, last: number, kind: number): number {
    const [one, two, three] = this.by;
    if (kind === 0) return this.less(one[last + 3]!, one[first + 2]!);
    if (kind === 1) return this.less(two[last + 3]!, two[first + 1]!);
    if (kind === 2) return this.less(three[last + 3]!, three[first]!);
    const all = this.less(one[last + 3]!, one[first + 2]!);
    const left = first + (kind === 3 ? 2 : 1);
    // The last bit left out: at most two before the last one.
    const end = last - ((last - left) % 3);
    return end < left ? all : this.less(all, this.less(three[end + 3]!, three[left]!));
  }

  private less(all: number, part: number): number {
    return this.xor ? all ^ part : all - part;
  }
}

/** The same for vectors of any length, as exclusive ors. */
export class VectorSums {
  private readonly by: bigint[][];

  constructor(values: readonly bigint[]) {
    this.by = [1, 2, 3].map((step) => {
      const sums = new Array<bigint>(values.length + 3).fill(0n);
      for (let i = 0; i < values.length; i++) sums[i + 3] = sums[i + 3 - step]! ^ values[i]!;
      return sums;
    });
  }

  over(first: number, last: number, kind: number): bigint {
    const [one, two, three] = this.by as [bigint[], bigint[], bigint[]];
    if (kind === 0) return one[last + 3]! ^ one[first + 2]!;
    if (kind === 1) return two[last + 3]! ^ two[first + 1]!;
    if (kind === 2) return three[last + 3]! ^ three[first]!;
    const all = one[last + 3]! ^ one[first + 2]!;
    const left = first + (kind === 3 ? 2 : 1);
    const end = last - ((last - left) % 3);
    return end < left ? all : all ^ three[end + 3]! ^ three[left]!;
  }
}
