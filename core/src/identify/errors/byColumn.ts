/** Errors that show outside the number: what is constant on the other cards, or their parity, is otherwise on some. */
import { Bits } from '../../bits/index.ts';
import { Hull } from '../algebra/hull.ts';
import type { NumberPlace } from '../cards/places.ts';
import { printValue } from '../cards/readings.ts';
import { VectorSums } from '../family/covers.ts';
import { Frame } from '../family/frame.ts';
import { Family } from '../family/index.ts';
import { coverWeight, cutBits } from '../family/prior.ts';
import { misread, oneFormat } from './byPlace.ts';
import { type Cards, choiceBits } from './cases.ts';
import { type Candidate, rowOf } from './error.ts';

const CODE_BITS = 3;
/** A code has at least about so many bits, of which about half are otherwise. */
const LEAST_CODE = 8;
const ONE_BIT_APART = 5;
const MOST_SETS = 6;
const SITES_OF_ALL = 4_000;

export function byColumn(cards: Cards, place: NumberPlace): Candidate[] {
  const { specimens, length } = cards;
  const count = specimens.length;
  const frame = new Frame(specimens.map(({ bits }) => bits));
  const own = new Set(place.positions.map((p) => p - 1));
  const outside = Array.from({ length }, (_, p) => p).filter((p) => !own.has(p) && frame.changes(p));
  const sets = new Map<string, { at: number[]; positions: number[] }>();
  for (const p of outside) {
    const at = minority(frame.columns[p]!, count);
    const key = at.join();
    const known = sets.get(key);
    if (known) known.positions.push(p + 1);
    else sets.set(key, { at, positions: [p + 1] });
  }
  const found: Candidate[] = [];
  const few = [...sets.values()].sort((a, b) => b.positions.length - a.positions.length).slice(0, MOST_SETS);
  for (const { at, positions } of few) {
    if (at.length === 1) for (const p of positions.slice(0, 2)) found.push(misread(cards, at[0]!, p));
    found.push(...otherCode(cards, place, at, positions));
  }
  found.push(...parityOnOne(cards, frame, outside, place));
  return found;
}

/** The fewer cards on which a column is as it is on all of them; where there are as many, those that are not as the one with the least number. */
function minority(column: bigint, count: number): number[] {
  const ones: number[] = [];
  for (let i = 1; i < count; i++) if ((column >> BigInt(i - 1)) & 1n) ones.push(i);
  if (ones.length * 2 <= count) return ones;
  return Array.from({ length: count }, (_, i) => i).filter((i) => !ones.includes(i));
}

/** Cards of another facility code: what the others ask for is otherwise on all of them in the same bits. */
function otherCode(cards: Cards, place: NumberPlace, at: readonly number[], positions: readonly number[]): Candidate[] {
  const { specimens } = cards;
  if (specimens.length - at.length < 2) return [];
  const mask = byAlgebra(cards, at) ?? byFamily(cards, at);
  if (!mask || place.positions.some((p) => mask.at(p)) || positions.some((p) => !mask.at(p))) return [];
  const mend = at.map((i) => ({ row: rowOf(specimens[i]!), bits: specimens[i]!.bits.xor(mask).toBinary() }));
  // One bit alone that is otherwise is no code yet: one in so many has codes as near to each other.
  const alone = positions.length === 1 ? ONE_BIT_APART : 0;
  const bits = CODE_BITS + choiceBits(specimens.length, at) + Math.max(LEAST_CODE, 2 * positions.length) + alone;
  const groups = at.map((i) => ({ row: rowOf(specimens[i]!), group: 'another code' }));
  return [{ ...oneFormat(cards, 'other facility code', at, mend, bits), mend: groups }];
}

/** In which bits some cards are otherwise than the rest, where the numbers add up to it: as if one more number bit told them apart. */
function byAlgebra({ specimens, numbers, length }: Cards, at: readonly number[]): Bits | undefined {
  const width = Math.max(1, ...numbers.map((n) => n.toString(2).length));
  const hull = new Hull(width + 1, length, specimens.length);
  specimens.forEach(({ bits }, i) => {
    hull.add(numbers[i]! | (at.includes(i) ? 1n << BigInt(width) : 0n), bits);
  });
  return hull.consistent ? hull.effectOf(width) : undefined;
}

/** The same, as the likeliest formats of the rest have it. */
function byFamily({ specimens, numbers, reading, length }: Cards, at: readonly number[]): Bits | undefined {
  const isRest = (_: unknown, i: number) => !at.includes(i);
  const first = specimens[at[0]!]!;
  const asked = at.map((i) => printValue(specimens[i]!.prints[reading.print]!));
  const family = new Family({
    reads: specimens.filter(isRest).map(({ bits }) => bits),
    readings: [{ ...reading, numbers: numbers.filter(isRest) }],
    asked,
    exist: false,
    constants: false,
    onlyLikelyChecks: true,
    // The longer the reads, the longer each takes.
    mostSites: Math.min(120, Math.ceil(SITES_OF_ALL / length)),
  });
  const expected = family.predict(asked[0]!)?.bits;
  return expected === undefined ? undefined : Bits.fromBinary(expected).xor(first.bits);
}

/** A parity bit, or a bit that one covers, that is otherwise on one card alone. */
function parityOnOne(cards: Cards, frame: Frame, outside: readonly number[], place: NumberPlace): Candidate[] {
  const count = cards.specimens.length;
  const sums = new VectorSums(frame.columns);
  const { first, last, kind, count: covers } = frame.covers;
  const cuts = cutBits(
    cards.length,
    place.positions.map((p) => p - 1),
  );
  const weights = new Map<bigint, number>();
  for (let i = 0; i < covers; i++) {
    const sum = sums.over(first[i]!, last[i]!, kind[i]!);
    weights.set(sum, (weights.get(sum) ?? 0) + coverWeight(cuts, first[i]!, last[i]!, kind[i]!));
  }
  const all = (1n << BigInt(count - 1)) - 1n;
  const one = (i: number) => (i === 0 ? all : 1n << BigInt(i - 1));
  const found = outside.flatMap((p) =>
    cards.specimens.map((_, i) => ({ p, i, weight: weights.get(frame.columns[p]! ^ one(i)) ?? 0 })),
  );
  return found
    .filter(({ weight }) => weight > 0)
    .sort((a, b) => b.weight - a.weight)
    .slice(0, 4)
    .map(({ p, i }) => misread(cards, i, p + 1));
}
