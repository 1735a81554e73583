/** The covers whose sum never changes among the cards: what they say of the number is taken once, for every position that may be parity over one. */
import type { Sums } from './covers.ts';
import type { Frame } from './frame.ts';
import { coverWeight } from './prior.ts';

/** Sums over any cover: the changing number bits in two words, above them the ends; how many positions change that are not of the number, the ends counted or not. */
export interface CoverSums {
  low: Sums;
  high: Sums;
  bad: Sums;
  badWithin: Sums;
}

/** Of the covers whose sum never changes: changing number bits, ends and weight, by their index among them. */
export interface Constant {
  low: Int32Array;
  high: Int32Array;
  weight: Float64Array;
  /** Those in which none, or one, of the positions changes that are not of the number. */
  first: [number[], number[]];
  /** The same, the ends not counted. */
  second: [number[], number[]];
}

/** The covers whose sum never changes, once for all positions. */
export function constantCovers(frame: Frame, sums: CoverSums, cuts: Float64Array): Constant {
  const all = frame.covers;
  const count = frame.constant.length;
  const [low, high, weight] = [new Int32Array(count), new Int32Array(count), new Float64Array(count)];
  const levels: Pick<Constant, 'first' | 'second'> = { first: [[], []], second: [[], []] };
  frame.constant.forEach((i, j) => {
    const [from, until, how] = [all.first[i]!, all.last[i]!, all.kind[i]!];
    const bad = sums.bad.over(from, until, how);
    const within = sums.badWithin.over(from, until, how);
    if (bad > 1 && within > 1) return;
    low[j] = sums.low.over(from, until, how);
    high[j] = sums.high.over(from, until, how);
    weight[j] = coverWeight(cuts, from, until, how);
    if (bad <= 1) levels.first[bad as 0 | 1].push(j);
    if (within <= 1) levels.second[within as 0 | 1].push(j);
  });
  return { low, high, weight, ...levels };
}
