/**
 * What explains a case that does not agree: which single error, put right, leaves cards that a format of the family, or of the
 * library, describes best. Every candidate is weighed as the family weighs formats: how unusual the error is, and how unusual the
 * format that is then left; so a format with an odd parity bit is not taken for an error, nor an error for such a format.
 */
import type { Format } from '../format/index.ts';
import { Hull } from './algebra/hull.ts';
import { smallestSets } from './algebra/smallestSets.ts';
import { type Analysis, analyse, numbered } from './analysis.ts';
import { Families } from './box.ts';
import { varies } from './cards/columns.ts';
import { plainReadings } from './cards/readings.ts';
import type { Specimen } from './cards/specimen.ts';
import { byCheck } from './errors/byCheck.ts';
import { byColumn } from './errors/byColumn.ts';
import { byPlace, inverted, misread, swapped, twoFormats } from './errors/byPlace.ts';
import { type Cards, placesWithMisses } from './errors/cases.ts';
import type { Candidate } from './errors/error.ts';
import { ChecksInParts } from './family/index.ts';

export interface Explained extends Candidate {
  /** How likely it is among all explanations, that nothing is wrong among them. */
  odds: number;
}

/** Fewer cards explain themselves by too much; more, or longer ones, take too long. */
const LEAST_CARDS = 4;
const MOST_CARDS = 64;
const MOST_LENGTH = 256;
const MOST_CANDIDATES = 28;
const MOST_CHECKS = 300;
/** A check is looked for where more than parity changes outside the number. */
const LEAST_CHECKED = 4;
/** Of two kinds of card, fewer than these have a format only if the library knows it. */
const LEAST_OF_A_KIND = 3;
/** So well explained, in bits, nothing that costs an error can be likelier. */
const WELL = -13;
/** Bits by which one explanation may be less likely than the best and still be heard. */
const NO_NEARER = 7;
/** How unusual a format is that is not of the family, and a card that is of no known one. */
const STRANGE_BITS = 10;

export interface Explanation {
  /** The errors that are named, likeliest first; none where nothing is wrong. */
  found: Explained[];
  /** How likely it is that the first of them is right, or that nothing is wrong. */
  certainty: number;
  /** What else is likeliest. */
  against?: Explained;
}

/** Undefined where explanations are not weighed, or none is left though the numbers do not add up. */
export function explain(analysis: Analysis, library: readonly Format[]): Explanation | undefined {
  const { main, specimens, facilities, length } = analysis;
  if (!main || length > MOST_LENGTH) return undefined;
  const inside = numbered(main.reading);
  if (inside.length < LEAST_CARDS || inside.length > MOST_CARDS) return undefined;
  if (facilities.some((code) => code !== undefined)) return undefined;
  // By their numbers, so that in whatever order they were read the same is found; neighbours are those whose numbers are.
  const own = inside.map((i) => ({ number: main.reading.numbers[i]!, specimen: specimens[i]! })).sort(byNumber);
  const whole = analyse(
    own.map(({ specimen }) => specimen),
    library,
    { composed: false },
  );
  const checks = new ChecksInParts(whole.reads, MOST_CHECKS);
  const clean = evidenceOf(whole, checks);
  if (clean + (length - widthOf(whole)) > WELL) return { found: [], certainty: 1 };
  const weighed: (Candidate & { evidence: number })[] = [];
  let best = clean;
  for (const one of candidatesOf(whole, checks)) {
    // No format explains more than all of it: what costs so much more than the best cannot come near it.
    if (-one.bits - (length - widthOf(whole)) < best - NO_NEARER) break;
    const parts = one.parts.map((part) => partEvidence(part, { library, checks }, one.parts.length === 1));
    const evidence = parts.reduce((sum, part) => sum + part, -one.bits);
    weighed.push({ ...one, evidence });
    best = Math.max(best, evidence);
  }
  if (best === Number.NEGATIVE_INFINITY) return undefined;
  const total = weighed.reduce((sum, { evidence }) => sum + 2 ** (evidence - best), 2 ** (clean - best));
  const found = merged(weighed.map(({ evidence, ...one }) => ({ ...one, odds: 2 ** (evidence - best) / total })));
  const all = found.reduce((sum, { odds }) => sum + odds, 0);
  const [first, second] = found;
  if (first && all > NAMED) {
    return {
      found: found.filter(({ odds }, i) => i === 0 || odds > LEAST_ODDS),
      certainty: first.odds,
      ...(second && second.odds > LEAST_ODDS && { against: second }),
    };
  }
  // Where the numbers do not add up something is wrong, even if it is not known what.
  if (!main.hull.consistent) return undefined;
  return { found: [], certainty: 1 - all, ...(first && first.odds > LEAST_ODDS && { against: first }) };
}
const byNumber = (a: Numbered, b: Numbered): number =>
  a.number === b.number
    ? a.specimen.bits.toBinary() < b.specimen.bits.toBinary()
      ? -1
      : 1
    : a.number < b.number
      ? -1
      : 1;
interface Numbered {
  number: bigint;
  specimen: Specimen;
}

const LEAST_ODDS = 0.02;
/** From here on an error is named. */
const NAMED = 0.7;

/**
 * One explanation of a kind for the same cards. Where it may be one bit of a card or another, all of them are named, and the card is set
 * aside until it is read again.
 */
function merged(found: readonly Explained[]): Explained[] {
  const by = new Map<string, Explained[]>();
  for (const one of found) {
    const key = `${one.kind} ${one.at.join()}`;
    by.set(key, [...(by.get(key) ?? []), one]);
  }
  return [...by.values()]
    .map((all) => {
      const [first, ...others] = all.sort((a, b) => b.odds - a.odds) as [Explained, ...Explained[]];
      const odds = all.reduce((sum, one) => sum + one.odds, 0);
      const alike = others.filter((one) => one.odds > ALIKE * odds);
      if (alike.length === 0 || !first.positions) return { ...first, odds };
      const positions = [first, ...alike].flatMap((one) => one.positions ?? []).sort((a, b) => a - b);
      return { ...first, odds, positions, mend: first.mend.map(({ row }) => ({ row, aside: true as const })) };
    })
    .sort((a, b) => b.odds - a.odds);
}
/** So likely beside the likeliest of its kind, another bit is named, too. */
const ALIKE = 0.05;

const widthOf = ({ main }: Analysis): number =>
  Math.max(1, ...main!.reading.numbers.flatMap((n) => (n === undefined ? [] : [n.toString(2).length])));

/** Of two kinds of card each has to have a format of the family or of the library: linear alone are too many. */
function partEvidence(
  part: readonly Specimen[],
  { library, checks }: { library: readonly Format[]; checks: ChecksInParts },
  strange: boolean,
): number {
  const analysis = analyse([...part], library, { composed: false });
  if (!strange && part.length < LEAST_OF_A_KIND && !analysis.hypotheses.some(({ format }) => format))
    return Number.NEGATIVE_INFINITY;
  return analysis.main ? evidenceOf(analysis, checks, strange) : Number.NEGATIVE_INFINITY;
}

/** How well one format explains cards, in bits: one of the family, of the library, or any that is linear. */
function evidenceOf(analysis: Analysis, checks: ChecksInParts, strange = true): number {
  const { main, length, specimens } = analysis;
  const family = new Families(analysis, [], checks).evidence() - (length - widthOf(analysis));
  const { consistent, rank } = main!.hull;
  if (!consistent || !strange) return family;
  const changing = analysis.columns.filter((column) => varies(column, specimens.length)).length;
  // Of a format that is only linear each bit that changes may follow any of the numbers' dimensions.
  const linear = -STRANGE_BITS - length - changing * Math.max(0, rank - 1);
  const most = Math.max(family, linear);
  return most + Math.log2(2 ** (family - most) + 2 ** (linear - most));
}

function candidatesOf(analysis: Analysis, checks: ChecksInParts): Candidate[] {
  const { main, specimens, length, known } = analysis;
  const readings = plainReadings(specimens);
  const found: Candidate[] = [];
  for (const reading of readings) {
    if (reading.numbers.some((n) => n === undefined)) continue;
    const cards: Cards = { reading, specimens, numbers: reading.numbers as bigint[], length };
    const places = placesWithMisses(cards);
    for (const place of places) found.push(...byPlace(cards, place));
    for (const place of places.filter(({ misses }) => misses.length === 0).slice(0, 3))
      found.push(...byColumn(cards, place));
    if (reading.kind === main!.reading.kind && reading.print === main!.reading.print)
      found.push(...byAlgebra(analysis, cards));
    const [first] = places;
    const changing = analysis.columns.filter((column) => varies(column, specimens.length)).length;
    if (first && changing - changingOf(cards.numbers) >= LEAST_CHECKED)
      found.push(...byCheck(cards, checks, first.inverted));
    for (const { misfits } of known) {
      const at = misfits.map(({ index }) => index);
      const others = known.some((other) => at.every((i) => !other.misfits.some(({ index }) => index === i)));
      if (at.length > 0 && at.length * 2 <= specimens.length && others)
        found.push(twoFormats(cards, at, 'another format'));
    }
  }
  const by = new Map<string, Candidate>();
  for (const one of found) {
    const key = `${one.kind} ${JSON.stringify(one.mend)}`;
    const before = by.get(key);
    if (!before || before.bits > one.bits) by.set(key, one);
  }
  return [...by.values()].sort((a, b) => a.bits - b.bits).slice(0, MOST_CANDIDATES);
}

/** How many bits of some numbers change. */
const changingOf = (numbers: readonly bigint[]): number =>
  numbers
    .reduce((all, number) => all | (number ^ numbers[0]!), 0n)
    .toString(2)
    .replaceAll('0', '').length;

/** Where the numbers do not add up: what the smallest sets that can be set aside may be. */
function byAlgebra({ main }: Analysis, cards: Cards): Candidate[] {
  const { sets } = smallestSets(main!.hull);
  return sets.flatMap((set): Candidate[] => {
    const [a, b] = set as [number, number];
    if (set.length === 2) return [swapped(cards, [a, b])];
    if (set.length !== 1) return [];
    const hull = new Hull(main!.hull.width, cards.length, cards.specimens.length);
    cards.specimens.forEach(({ bits }, i) => {
      if (i !== a) hull.add(cards.numbers[i]!, bits);
    });
    const wrong = hull.predict(cards.numbers[a]!)?.bits.xor(cards.specimens[a]!.bits);
    if (!wrong) return [];
    if (wrong.count() === cards.length) return [inverted(cards, [a])];
    if (wrong.count() !== 1) return [];
    return [misread(cards, a, wrong.toBinary().indexOf('1') + 1)];
  });
}
