/** Groups of covers that say the same of every number: those with the same changing number bits and the same ends in them. */

/** Changing number bits are kept in two words, the ends above those of the second. */
export const LOW_BITS = 26;
export const HIGH_BITS = 22;
export const MOST_CHANGING = LOW_BITS + HIGH_BITS;
export const HIGH_MASK = (1 << HIGH_BITS) - 1;
const WORD = 2 ** LOW_BITS;

export interface Group {
  low: number;
  high: number;
  ends: number;
  count: number;
  weight: number;
}

export class Groups {
  private readonly at = new Map<number, Group>();

  add(low: number, high: number, ends: number, weight: number): void {
    const key = (ends * 2 ** HIGH_BITS + high) * WORD + low;
    const known = this.at.get(key);
    if (known) {
      known.count++;
      known.weight += weight;
    } else this.at.set(key, { low, high, ends, count: 1, weight });
  }

  get list(): Group[] {
    return [...this.at.values()];
  }
}

/** Whether a word has an odd number of ones. */
export const odd = (word: number): number => {
  let x = word ^ (word >>> 16);
  x ^= x >>> 8;
  x ^= x >>> 4;
  return (0x6996 >>> (x & 15)) & 1;
};
