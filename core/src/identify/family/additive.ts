/**
 * Additive sums beside the algebra: a sum carries, so that its bits are no exclusive ors. Where all cards have one, what it differs by
 * from what it should be is one: nothing, on every card.
 */
import { Bits } from '../../bits/index.ts';
import { sumsAmong } from './checkSearch.ts';
import { type CheckAt, valueOver } from './checks.ts';

/** Fewer cards have some sum by chance. */
const LEAST = 5;
const MOST = 1000;

/** The widest sum. */
const WIDEST = 8;

/**
 * The sums that all of some reads have, over bits that change among them, and in whose place stand all bits in which the cards
 * contradict one another (`within`, from 1): one of those that stand at each place, the likeliest first.
 */
export function sumOf(reads: readonly Bits[], within: readonly [first: number, last: number]): CheckAt[] {
  if (within[1] - within[0] >= WIDEST) return [];
  const distinct = [...new Map(reads.map((bits) => [bits.toBinary(), bits])).values()];
  if (distinct.length < LEAST) return [];
  const { length } = distinct[0]!;
  const before = [0];
  for (let p = 1; p <= length; p++)
    before.push(before.at(-1)! + (distinct.some((bits) => bits.at(p) !== distinct[0]!.at(p)) ? 1 : 0));
  const changes = (first: number, last: number) => before[last + 1]! > before[first]!;
  const found = [false, true].flatMap((inverted) =>
    sumsAmong(distinct, { isWanted: changes, inverted, most: MOST }).filter(
      ({ at, width }) => at < within[0] && within[1] <= at + width,
    ),
  );
  const likeliest = found.toSorted((a, b) => a.bits - b.bits);
  return [...new Map(likeliest.toReversed().map((one) => [`${one.at} ${one.width}`, one])).values()].toReversed();
}

/** A read with what stands in a check exclusive-ored with what should; once more, and it is the read again. */
export const turnedBy =
  (check: CheckAt) =>
  (read: Bits): Bits => {
    const { at, width } = check;
    const value = valueOver(
      check,
      Uint8Array.from({ length: read.length }, (_, p) => read.at(p + 1)),
    );
    return Bits.build(read.length, (p) => {
      const i = p - 1 - at;
      const should = i >= 0 && i < width ? (value >> (width - 1 - i)) & 1 : 0;
      return (read.at(p) ^ should) === 1;
    });
  };
