/** What candidates are made from: the cards of a case that have a number under one way to read the prints. */
import { popcount32 } from '../../bits/index.ts';
import { type Column, columnsOfNumbers, columnsOfReads, reversed } from '../cards/columns.ts';
import { type NumberPlace, placesOf } from '../cards/places.ts';
import type { PrintReading } from '../cards/readings.ts';
import type { Specimen } from '../cards/specimen.ts';

export interface Cards {
  /** In the order of their numbers. */
  specimens: readonly Specimen[];
  reading: PrintReading;
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
export function placesWithMisses(cards: Cards): NumberPlace[] {
  const { specimens, numbers } = cards;
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
  const few = Math.floor(numbers.length / 3);
  if (!found.some(({ misses }) => misses.length <= few)) found.push(...inTwoPieces(cards, few));
  return found.sort((a, b) => a.misses.length - b.misses.length || b.bits - a.bits).slice(0, MOST_PLACES);
}
const MOST_PLACES = 16;

/** The same for a number in two pieces as sent, with few misses; of up to 31 cards. */
function inTwoPieces({ specimens, numbers, length }: Cards, few: number): NumberPlace[] {
  const count = numbers.length;
  if (count > 31) return [];
  const width = Math.max(...numbers.map(bitLength));
  const found: NumberPlace[] = [];
  const everyCard = (1 << count) - 1;
  // Columns have the first card on the left; here it is the lowest bit.
  const masksOf = (columns: readonly Column[]) => columns.map(([column]) => reversed(column!));
  const reads = masksOf(columnsOfReads(specimens.map(({ bits }) => bits)));
  const bitsOfNumbers = masksOf(columnsOfNumbers(numbers));
  for (const inverted of [false, true]) {
    const turn = inverted ? 0 : everyCard;
    // By number bit and position, a bit for each card that has it there.
    const stands = bitsOfNumbers.map((own) =>
      Int32Array.from({ length }, (_, p) => (own ^ reads[p]! ^ turn) & everyCard),
    );
    // From a bit on all higher ones, to the left of a position.
    const higher = stands.map((row) => row.slice());
    for (let k = width - 2; k >= 0; k--)
      for (let p = 0; p < length; p++) higher[k]![p]! &= p > 0 ? higher[k + 1]![p - 1]! : 0;
    for (let low = 0; low < length; low++)
      for (let cut = 1, mask = -1; cut < width && cut <= low + 1; cut++) {
        mask &= stands[cut - 1]![low - cut + 1]!;
        if (popcount32(mask & everyCard) < count - few) break;
        for (let high = width - cut - 1; high < length; high++) {
          if (high >= low - cut && high - (width - cut) + 1 <= low) continue;
          const both = mask & higher[cut]![high]!;
          if (popcount32(both) < count - few) continue;
          const positions = Array.from({ length: width }, (_, k) => (k < cut ? low - k : high - (k - cut)) + 1);
          const misses = numbers.flatMap((_, i) => ((both >> i) & 1 ? [] : [i]));
          found.push({ order: 'as sent', inverted, positions, bits: width, zeros: [], misses });
        }
      }
  }
  return found;
}
