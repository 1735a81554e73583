/** Errors that show where the number stands: on some cards it is not what is printed. */
import { type NumberPlace, valueAt } from '../cards/places.ts';
import type { Specimen } from '../cards/specimen.ts';
import { type Cards, choiceBits } from './cases.ts';
import { slipBits } from './edits.ts';
import { type Candidate, type Mend, rowOf } from './error.ts';
import { mended, printOfNumber } from './mend.ts';

const SWAPPED_BITS = 7;
const MISTYPED_BITS = 6;
const MISREAD_BITS = 5;
const INVERTED_BITS = 8;
const TWO_FORMATS_BITS = 8;

const textOf = ({ reading }: Cards, specimen: Specimen): string => specimen.prints[reading.print]!.text;

const which = ({ reading }: Cards): Pick<Mend, 'print'> => (reading.print > 0 ? { print: reading.print } : {});

/** The case with an error put right, as one format. */
export function oneFormat(
  cards: Cards,
  kind: Candidate['kind'],
  at: readonly number[],
  mend: Mend[],
  bits: number,
): Candidate {
  return { kind, at: [...at], mend, parts: [mended(cards.specimens, mend, cards.reading.print)], bits };
}

export function misread(cards: Cards, at: number, position: number): Candidate {
  const { specimens, length } = cards;
  const specimen = specimens[at]!;
  const bits = specimen.bits.toBinary();
  const other = bits[position - 1] === '1' ? '0' : '1';
  const mend = { row: rowOf(specimen), bits: bits.slice(0, position - 1) + other + bits.slice(position) };
  const cost = MISREAD_BITS + Math.log2(specimens.length) + Math.log2(length);
  return { ...oneFormat(cards, 'misread bit', [at], [mend], cost), positions: [position] };
}

export function inverted(cards: Cards, at: readonly number[]): Candidate {
  const mend = at.map((i) => ({
    row: rowOf(cards.specimens[i]!),
    bits: cards.specimens[i]!.bits.invert().toBinary(),
  }));
  return oneFormat(cards, 'inverted read', at, mend, INVERTED_BITS + choiceBits(cards.specimens.length, at));
}

export function swapped(cards: Cards, [a, b]: readonly [number, number]): Candidate {
  const [one, two] = [cards.specimens[a]!, cards.specimens[b]!];
  const mend = [
    { row: rowOf(one), printed: textOf(cards, two), ...which(cards) },
    { row: rowOf(two), printed: textOf(cards, one), ...which(cards) },
  ];
  const count = cards.specimens.length;
  // Neighbours are exchanged more often than others (common practice, no source).
  const pairs = b === a + 1 ? Math.log2(count) + 1 : Math.log2((count * (count - 1)) / 2) + 1;
  return oneFormat(cards, 'swapped pair', [a, b], mend, SWAPPED_BITS + pairs);
}

/** Two kinds of card in one case: those in `at` are of another format. */
export function twoFormats(cards: Cards, at: readonly number[], group: string): Candidate {
  const [few, many] = [at, cards.specimens.flatMap((_, i) => (at.includes(i) ? [] : [i]))];
  return {
    kind: 'other format',
    at: [...few],
    mend: few.map((i) => ({ row: rowOf(cards.specimens[i]!), group })),
    parts: [many, few].map((part) => part.map((i) => cards.specimens[i]!)),
    bits: TWO_FORMATS_BITS + choiceBits(cards.specimens.length, few),
  };
}

function mistyped(cards: Cards, place: NumberPlace, at: readonly number[]): Candidate[] {
  let bits = MISTYPED_BITS * at.length + choiceBits(cards.specimens.length, at);
  const mend: Mend[] = [];
  for (const i of at) {
    const specimen = cards.specimens[i]!;
    const typed = textOf(cards, specimen);
    const printed = printOfNumber(cards.reading, typed, valueAt(place, specimen.bits));
    if (printed === undefined || printed === typed) return [];
    bits += slipBits(printed, typed);
    mend.push({ row: rowOf(specimen), printed, ...which(cards) });
  }
  return [oneFormat(cards, 'mistyped print', at, mend, bits)];
}

/** What may be wrong with the cards whose number does not stand at a place where the others have theirs. */
export function byPlace(cards: Cards, place: NumberPlace): Candidate[] {
  const { misses } = place;
  const { specimens, numbers } = cards;
  if (misses.length === 0) return [];
  const found: Candidate[] = [];
  const value = (i: number) => valueAt(place, specimens[i]!.bits);
  const isFew = misses.length * 2 <= specimens.length;
  if (isFew && misses.every((i) => valueAt(place, specimens[i]!.bits.invert()) === numbers[i]))
    found.push(inverted(cards, misses));
  const [a, b] = misses;
  if (misses.length === 2 && value(a!) === numbers[b!] && value(b!) === numbers[a!])
    found.push(swapped(cards, [a!, b!]));
  if (misses.length <= 2 && isFew) found.push(...mistyped(cards, place, misses));
  if (misses.length === 1) {
    const wrong = value(a!) ^ numbers[a!]!;
    if ((wrong & (wrong - 1n)) === 0n) {
      const position = place.positions[wrong.toString(2).length - 1];
      if (position !== undefined) found.push(misread(cards, a!, position));
    }
  }
  const [few, many] = isFew
    ? [misses, undefined]
    : [specimens.flatMap((_, i) => (misses.includes(i) ? [] : [i])), misses];
  if (few.length > 0 && (isFew || many)) found.push(twoFormats(cards, few, 'another format'));
  return found;
}
