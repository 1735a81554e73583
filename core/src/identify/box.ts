/**
 * The box: of all cards of a range, how far the bits of each stand. Proven by the algebra of the hull, settled where every format of the
 * family that agrees with the cards gives them, likely with odds, or open.
 */
import { Bits } from '../bits/index.ts';
import { Hull } from './algebra/hull.ts';
import type { Analysis } from './analysis.ts';
import { numbered } from './analysis.ts';
import { type PrintReading, type PrintValue, plainReadings, printValue } from './cards/readings.ts';
import type { Specimen } from './cards/specimen.ts';
import { type Also, type ChecksInParts, Family, Frame, type Hearing, LIKELY } from './family/index.ts';
import type { BoxCard, BoxFinding, PredictionFinding } from './finding.ts';
import type { Hypothesis } from './hypotheses.ts';
import { standingWith } from './lessSure.ts';
import { encoded, predict, printOf } from './predict.ts';
import type { Range } from './tieBreaker.ts';

/** All cards of a box up to this many are listed, and as many as these of a larger one. */
const MOST_LISTED = 1000;
const SAMPLE = 400;

/** By whom a group's predictions are heard. */
export interface Hearings {
  /** Undefined where none is left, or the cards are not all of one code. */
  for(prints: readonly PrintValue[], exist: boolean): Hearing | undefined;
}

/** The families that a group's predictions are heard by; worked out once for each set of prints. */
export class Families implements Hearings {
  private readonly known = new Map<string, Family | undefined>();
  private frame: Frame | undefined;

  /** `codes`: facility codes that are known to be in use, which makes a format that shows one likelier. `checks`: where they are looked for when cases that differ little are weighed. */
  constructor(
    private readonly analysis: Analysis,
    private readonly codes: readonly string[] = [],
    private readonly checks?: ChecksInParts,
  ) {}

  for(prints: readonly PrintValue[], exist: boolean): Family | undefined {
    const family = this.whole(prints, exist);
    return family?.isEmpty ? undefined : family;
  }

  /** The same, also where it has no member that agrees. Undefined where the cards are not of one kind. */
  whole(prints: readonly PrintValue[], exist: boolean): Family | undefined {
    const key = `${exist} ${prints.map(({ text }) => text).join()}`;
    if (!this.known.has(key)) this.known.set(key, this.make(prints, exist));
    return this.known.get(key);
  }

  /** How well the family explains the cards, whatever is asked; -Infinity where none of it does. */
  evidence(): number {
    return this.build([], false)?.evidence ?? Number.NEGATIVE_INFINITY;
  }

  private make(asked: readonly PrintValue[], exist: boolean): Family | undefined {
    return this.analysis.main?.hull.consistent ? this.build(asked, exist) : undefined;
  }

  private build(asked: readonly PrintValue[], exist: boolean): Family | undefined {
    const { main, specimens, facilities, hypotheses } = this.analysis;
    if (!main) return undefined;
    const inside = numbered(main.reading);
    if (new Set(inside.map((i) => facilities[i])).size > 1) return undefined;
    const cards = distinct(inside.map((i) => specimens[i]!));
    const readings = readingsOf(main.reading, cards);
    const known = (one: Hypothesis) =>
      one.facility !== undefined && this.codes.includes(one.facility) ? KNOWN_CODE : 0;
    const also = hypotheses.filter(({ format }) => format).map((one) => asMember(this.analysis, one, known(one)));
    const reads = cards.map(({ bits }) => bits);
    this.frame ??= new Frame(reads);
    return new Family({
      reads,
      frame: this.frame,
      readings,
      asked,
      also,
      exist,
      ...(this.checks && { checks: this.checks }),
    });
  }
}

/** The ways to read the prints of some cards that give each a number; where only last digits are printed, that one. */
function readingsOf(main: PrintReading, cards: readonly Specimen[]): PrintReading[] {
  if (main.kind !== 'the last digits only')
    return plainReadings(cards).filter(({ numbers }) => numbers.every((n) => n !== undefined));
  const numbers = cards.map(({ prints }) => main.numberOf(printValue(prints[main.print]!)));
  return numbers.every((n) => n !== undefined) ? [{ ...main, numbers }] : [];
}

/** A card that was read twice says nothing more the second time. */
function distinct<T extends { bits: { toBinary(): string }; prints: { text: string }[] }>(cards: readonly T[]): T[] {
  return [...new Map(cards.map((card) => [keyOf(card), card])).values()];
}

/** What was read and what is printed; a case asks for it again and again. */
function keyOf(card: { bits: { toBinary(): string }; prints: { text: string }[] }): string {
  const key = keys.get(card) ?? `${card.bits.toBinary()} ${card.prints.map(({ text }) => text).join()}`;
  keys.set(card, key);
  return key;
}
const keys = new WeakMap<object, string>();

/** One of the library's some twenty formats, or half of what there is: what of its bits is given weighs for it. */
const LIBRARY_BITS = 5.3;
/** Zeros before a number may as well be those of a facility code of 0, which one site in eight has (common practice, no source). */
const SPARE_ZEROS = 3;
/** A code that is named at the site: of 256 and more one is it by chance. */
const KNOWN_CODE = 7;
function asMember(analysis: Analysis, hypothesis: Hypothesis, known: number): Also {
  const { layout, format } = hypothesis;
  const numbers = analysis.main!.reading.numbers.filter((n) => n !== undefined);
  const width = Math.max(1, ...numbers.map((n) => n.toString(2).length));
  let given = 0;
  for (const span of layout.spans) {
    const bits = lengthOf(span.at);
    if (span.role === 'check' || span.role === 'parity' || span.role === 'fixed') given += bits;
    if (span.role === 'number') given += Math.min(SPARE_ZEROS, Math.max(0, bits - width));
  }
  return {
    words: `it is ${format!.id} of the library`,
    bits: LIBRARY_BITS - given - known,
    says: (print) => {
      const number = analysis.main!.reading.numberOf(print);
      return number === undefined ? undefined : encoded(analysis, hypothesis, print, number)?.toBinary();
    },
  };
}

/** How many positions a range such as `3-34,36` has. */
const lengthOf = (range: string): number =>
  range.split(',').reduce((sum, part) => {
    const [from, to = from] = part.split('-').map(Number) as [number, number?];
    return sum + Math.abs(to! - from) + 1;
  }, 0);

/** A prediction as the algebra has it, or else as the family does. */
export function withFamily(found: PredictionFinding, family: Hearing | undefined): PredictionFinding {
  if (!family) return found;
  // The algebra does not know sums that carry: where a member with one agrees with the cards, it is heard, too.
  if (found.standing === 'proven' && !family.saysOtherwise(printOf(found.printed), found.bits!)) return found;
  const said = family.predict(printOf(found.printed));
  if (!said) return found;
  const { bits, settled, odds } = said;
  const { from: _from, ...rest } = found;
  const unsettled = said.settledBits.flatMap((is, p) => (is ? [] : [p + 1]));
  const told = { ...rest, bits, odds, ...(unsettled.length > 0 && { unsettled }) };
  if (settled)
    return {
      ...told,
      standing: 'settled',
      rival: null,
      why: 'Every format of the family that agrees with these cards gives it.',
    };
  const rival = said.rival!().words;
  const percent = `${percentOf(odds)} %`;
  if (odds >= LIKELY)
    return {
      ...told,
      standing: 'likely',
      rival,
      why: `${percent[0]!.toUpperCase()}${percent.slice(1)} likely, ${rival}.`,
    };
  return {
    ...told,
    bits: null,
    standing: 'open',
    rival,
    why: `Not determined: the likeliest bits are so with ${percent}, ${rival}.`,
  };
}

/** Never 100 where it is not settled. */
export const percentOf = (odds: number): string =>
  odds > 0.999 ? `over ${odds > 0.9999 ? '99.99' : '99.9'}` : (100 * odds).toFixed(odds > 0.99 ? 1 : 0);

/** The range of the prints, widened to round hundreds. */
function ownRange(analysis: Analysis): Range | undefined {
  const numbers = decimals(analysis).map(({ number }) => number);
  if (numbers.length === 0) return undefined;
  const least = numbers.reduce((a, b) => (a < b ? a : b));
  const most = numbers.reduce((a, b) => (a > b ? a : b));
  return { from: (least / 100n) * 100n, to: (most / 100n) * 100n + 99n };
}

/** The prints that are decimal numbers, by what stands there; of a pair its number. */
function decimals({ main, specimens }: Analysis): { number: bigint; row: number }[] {
  if (!main) return [];
  return numbered(main.reading).flatMap((i) => {
    const print = specimens[i]!.prints[main.reading.print];
    const value = print && printValue(print);
    const number = value?.decimal ?? (value?.facility === undefined ? undefined : value.plain);
    return number === undefined ? [] : [{ number, row: specimens[i]!.index + 1 }];
  });
}

/** What is asked of a group besides: the prints of its box, and those to be predicted. */
export interface Asked {
  range: Range | undefined;
  /** Whether somebody said that these are the cards of the box. */
  given: boolean;
  prints: readonly PrintValue[];
}

export function askedOf(analysis: Analysis, range: Range | undefined): Asked {
  const own = range ?? ownRange(analysis);
  const read = decimals(analysis).map(({ number }) => number);
  const prints = own && own.to >= own.from ? listed(own, read).map((number) => printOf(number.toString())) : [];
  return { range: own, given: range !== undefined, prints };
}

/** The family for some prints: that of the box, where they are of it. */
export function familyFor(families: Hearings, box: Asked, prints: readonly PrintValue[]): Hearing | undefined {
  const inBox = new Set(box.prints.map(({ text }) => text));
  return prints.every(({ text }) => inBox.has(text))
    ? families.for(box.prints, box.given)
    : families.for(prints, false);
}

/** `certainty`: how sure it is that the cards are as they are taken here. */
export function boxOf(analysis: Analysis, families: Hearings, asked: Asked, certainty?: number): BoxFinding | null {
  const { range: own, given, prints } = asked;
  if (!own || prints.length === 0 || !analysis.main?.hull.consistent) return null;
  const family = families.for(prints, given);
  const rows = new Map(decimals(analysis).map(({ number, row }) => [number, row]));
  const cards = prints.map((print): BoxCard => {
    const { text } = print;
    const row = rows.get(BigInt(text));
    const card = cardOf(predict(analysis, print, { layouts: false }), print, family);
    const sure = certainty === undefined ? {} : standingWith(card.standing, card.odds, certainty);
    return { number: text, ...(row !== undefined && { row }), ...card, ...sure } as BoxCard;
  });
  const count = (standing: BoxCard['standing']) => cards.filter((card) => card.standing === standing).length;
  return {
    from: own.from.toString(),
    to: own.to.toString(),
    given,
    of: (own.to - own.from + 1n).toString(),
    cards,
    proven: count('proven'),
    settled: count('settled'),
    likely: count('likely'),
    open: count('open'),
    until: untilProven(analysis, prints),
    family: family ? { size: family.size, survivors: powerOfTen(family.count) } : null,
  };
}

function cardOf(found: PredictionFinding, print: PrintValue, family: Hearing | undefined): Omit<BoxCard, 'number'> {
  if (found.standing === 'proven' && !family?.saysOtherwise(print, found.bits!))
    return { standing: 'proven', odds: 1, bits: found.bits };
  const said = family?.predict(print);
  if (!said) return { standing: 'open', odds: null, bits: null };
  const { settled, odds, bits } = said;
  return { standing: settled ? 'settled' : odds >= LIKELY ? 'likely' : 'open', odds, bits };
}

/** By how many dimensions the numbers of the box go beyond those of the cards: each card that is no sum of the others takes one. */
function untilProven({ main }: Analysis, prints: readonly PrintValue[]): number {
  const read = main!.reading.numbers.filter((n) => n !== undefined);
  const all = [...read, ...prints.flatMap((print) => main!.reading.numberOf(print) ?? [])];
  const width = Math.max(1, ...all.map((n) => n.toString(2).length));
  const nothing = Bits.fromBinary('0');
  const rankOf = (numbers: readonly bigint[]): number => {
    const hull = new Hull(width, 1, numbers.length);
    for (const number of numbers) hull.add(number, nothing);
    return hull.rank;
  };
  return rankOf(all) - rankOf(read);
}

/** All of a range, or evenly chosen ones and those that were read. */
function listed({ from, to }: Range, read: readonly bigint[]): bigint[] {
  const of = to - from + 1n;
  const shown = of <= BigInt(MOST_LISTED) ? of : BigInt(SAMPLE);
  const even = Array.from(
    { length: Number(shown) },
    (_, i) => from + (BigInt(i) * (of - 1n)) / (shown > 1n ? shown - 1n : 1n),
  );
  const all = new Set([...even, ...read.slice(0, SAMPLE).filter((number) => number >= from && number <= to)]);
  return [...all].sort((a, b) => (a < b ? -1 : 1));
}

/** `2`, `840`, `6.1e31`: two digits and the power where there are more than six. */
export function powerOfTen(count: bigint): string {
  const digits = count.toString();
  return digits.length <= 6 ? digits : `${digits[0]}.${digits[1]}e${digits.length - 1}`;
}
