/**
 * Which card of the box to read next: the one whose bits are most open, as that tells most of the formats that are left; and how many
 * more it takes, by going on as the odds have it until the bits of the whole box are settled.
 */
import { Bits } from '../bits/index.ts';
import { rangeOf } from '../format/index.ts';
import { type Analysis, numbered } from './analysis.ts';
import type { Asked, Hearings } from './box.ts';
import type { PrintValue } from './cards/readings.ts';
import { Family, Frame, type Hearing } from './family/index.ts';
import type { TieBreaker } from './finding.ts';
import { seeded } from './seeded.ts';

/** A position is named where it is at least so open. */
const OPEN = 0.1;
/** So many are gone through of a larger box, and so many cards are read at most while going on. */
const MOST_WEIGHED = 240;
const MOST_WATCHED = 48;
const MOST_STEPS = 24;
const CONTINUATIONS = 5;

interface Next {
  print: PrintValue;
  /** How much it tells, in bits. */
  gain: number;
  openness: Float64Array;
}

function mostOpen(family: Hearing, prints: readonly PrintValue[], read: ReadonlySet<string>): Next | undefined {
  let best: Next | undefined;
  for (const print of prints) {
    if (read.has(print.text)) continue;
    const openness = family.openness(print);
    const gain = openness?.reduce((sum, one) => sum + one, 0) ?? 0;
    if (openness && gain > (best?.gain ?? LEAST_GAIN)) best = { print, gain, openness };
  }
  return best;
}
/** Less than this is rounding. */
const LEAST_GAIN = 1e-6;

/** Undefined where the family says nothing, or nothing of the box is open. `atHand` where only some cards are there. */
export function nextOfBox(
  analysis: Analysis,
  families: Hearings,
  { prints, given }: Asked,
  atHand: readonly string[] | undefined,
): TieBreaker | undefined {
  const family = families.for(prints, given);
  if (!family) return undefined;
  const choice = atHand
    ? atHand.flatMap((text) => prints.find((print) => print.text === text) ?? [])
    : evenly(prints, MOST_WEIGHED);
  const next = mostOpen(family, choice, readOf(analysis));
  if (!next) return undefined;
  const { print, gain, openness } = next;
  const settles = Array.from(openness, (one, p) => (one > OPEN ? p + 1 : 0)).filter((p) => p > 0);
  const where = atHand ? 'at hand' : 'of the box';
  const bits = `${settles.length === 1 ? 'bit' : 'bits'} ${settles.length > 0 ? rangeOf(settles) : ''}`;
  return {
    printed: print.text,
    from: print.text,
    to: print.text,
    settles,
    gain,
    words:
      settles.length === 0
        ? `Of all cards ${where} its bits are the least certain.`
        : `Card ${print.text} tells most: its ${bits} may still be either way, more than on any other card ${where}.`,
    atMost: 0,
  };
}

const readOf = ({ main, specimens }: Analysis): Set<string> =>
  new Set(numbered(main!.reading).map((i) => specimens[i]!.prints[main!.reading.print]!.text.trim()));

const evenly = <T>(list: readonly T[], most: number): T[] =>
  list.length <= most
    ? [...list]
    : Array.from({ length: most }, (_, i) => list[Math.floor((i * (list.length - 1)) / (most - 1))]!);

/**
 * How many more cards it takes until the bits of all the box are settled: the median of a few ways in which it may go on, each card
 * chosen as above and its bits drawn by the odds. Null where the family says nothing. Takes as long as some dozen answers.
 */
export function cardsUntilSettled(analysis: Analysis, families: Hearings, { prints, given }: Asked): number | null {
  const { main, specimens } = analysis;
  const start = families.for(prints, given);
  if (!main || !start) return null;
  const cards = numbered(main.reading).map((i) => ({ bits: specimens[i]!.bits, number: main.reading.numbers[i]! }));
  const watched = evenly(prints, MOST_WATCHED);
  const read = readOf(analysis);
  const needed = Array.from({ length: CONTINUATIONS }, (_, i) => {
    const random = seeded(i + 1);
    const [own, taken] = [[...cards], new Set(read)];
    let family: Hearing | undefined = families.for(watched, given) ?? start;
    for (let step = 0; step < MOST_STEPS; step++) {
      const next = family && mostOpen(family, watched, taken);
      const bits = next && family!.sample(next.print, random);
      if (!next || bits === undefined) return step;
      own.push({ bits: Bits.fromBinary(bits), number: main.reading.numberOf(next.print)! });
      taken.add(next.print.text);
      const reads = own.map((card) => card.bits);
      const reading = { ...main.reading, numbers: own.map(({ number }) => number) };
      family = new Family({ reads, frame: new Frame(reads), readings: [reading], asked: watched, exist: given });
    }
    return MOST_STEPS;
  }).sort((a, b) => a - b);
  return needed[needed.length >> 1]!;
}
