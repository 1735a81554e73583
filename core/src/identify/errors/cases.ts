/** What candidates are made from: the cards of a case that have a number under one way to read the prints. */
import { columnsOfNumbers, columnsOfReads } from '../cards/columns.ts';
import { type NumberPlace, placesOf } from '../cards/places.ts';
import type { PrintReading } from '../cards/readings.ts';
import type { Specimen } from '../cards/specimen.ts';

export interface Cards {
  reading: PrintReading;
  specimens: readonly Specimen[];
  numbers: readonly bigint[];
  length: number;
}

/** In how many ways so many of the cards may be chosen, in bits; cards one after the other at either end are chosen more easily. */
export function choiceBits(count: number, chosen: readonly number[]): number {
  const sorted = [...chosen].sort((a, b) => a - b);
  const isRun = sorted.every((at, i) => i === 0 || at === sorted[i - 1]! + 1);
  const isAtEnd = isRun && (sorted[0] === 0 || sorted.at(-1) === count - 1);
  let bits = 0;
  for (let k = 0; k < sorted.length; k++) bits += Math.log2((count - k) / (k + 1));
  return isAtEnd && sorted.length > 1 ? Math.min(bits, 1 + Math.log2(count)) : bits;
}

const bitLength = (value: bigint): number => (value === 0n ? 1 : value.toString(2).length);

/** Places at which at least two cards have their number, those with the fewest misses first; misses are indices into the cards. */
export function placesWithMisses({ specimens, numbers }: Cards): NumberPlace[] {
  const all = numbers.map((_, i) => i);
  const widths = numbers.map(bitLength);
  const most = Math.max(...widths);
  const narrow = all.filter((i) => widths[i]! < most);
  // A number of another size would want a place that the others do not have.
  const subsets = narrow.length > 1 && narrow.length < all.length ? [all, narrow] : [all];
  const found = subsets.flatMap((inside) => {
    const reads = columnsOfReads(inside.map((i) => specimens[i]!.bits));
    const columns = columnsOfNumbers(inside.map((i) => numbers[i]!));
    const left = all.filter((i) => !inside.includes(i));
    return placesOf({ reads, numbers: columns, count: inside.length, misses: inside.length - 2 })
      .filter(({ bits }) => bits === columns.length)
      .map((place) => ({ ...place, misses: [...place.misses.map((k) => inside[k]!), ...left].sort((a, b) => a - b) }));
  });
  return found.sort((a, b) => a.misses.length - b.misses.length || b.bits - a.bits).slice(0, MOST_PLACES);
}
const MOST_PLACES = 16;
