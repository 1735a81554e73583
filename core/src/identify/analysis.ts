/**
 * Analysis: one group of specimens, which share a format and a facility code. Chooses how the prints are read, builds
 * the hull of the numbers, and finds the layouts that agree. Everything that is claimed rests on this.
 */
import type { Bits } from '../bits/index.ts';
import type { Format } from '../format/index.ts';
import { Hull } from './algebra/hull.ts';
import { type Column, columnsOfNumbers, columnsOfReads, varies } from './cards/columns.ts';
import { type NumberPlace, placesOf, valueAt } from './cards/places.ts';
import { type PrintReading, plainReadings, withAdded, withLastDigits } from './cards/readings.ts';
import type { Specimen } from './cards/specimen.ts';
import { addedInOtherOrders, type CheckAt, sumOf, turnedBy } from './family/index.ts';
import { type Hypothesis, type Known, knownFormats, libraryHypotheses, structures } from './hypotheses.ts';
import { addedConstants, lastDigits } from './search.ts';

export interface Read {
  reading: PrintReading;
  hull: Hull;
  /** Bits that are no exclusive or of number bits, but a sum that all of these cards have. */
  sum?: CheckAt;
  places: NumberPlace[];
}

export interface Analysis {
  specimens: Specimen[];
  reads: Bits[];
  columns: Column[];
  length: number;
  /** How the prints are read; undefined where no card has a readable print. */
  main: Read | undefined;
  /** Places at which all but a few specimens have their number, where none has all. */
  nearPlaces: NumberPlace[];
  /** Other ways to read the prints that also agree with every specimen and that the bits bear out. */
  rivals: Read[];
  known: Known[];
  hypotheses: Hypothesis[];
  /** How many bits a number has at most in the algebra; facility codes, where known, stand above. */
  width: number;
  facilities: (bigint | undefined)[];
}

/** The indices into the group of the specimens that have a number under a reading. */
export function numbered(reading: PrintReading): readonly number[] {
  const known = indicesOfNumbers.get(reading) ?? reading.numbers.flatMap((n, i) => (n === undefined ? [] : [i]));
  indicesOfNumbers.set(reading, known);
  return known;
}
/** A reading is never changed, and each prediction asks for them. */
const indicesOfNumbers = new WeakMap<PrintReading, readonly number[]>();

/** The number with the facility code above it, where the codes are known. */
export function keyOf(number: bigint, facility: bigint | undefined, width: number): bigint {
  return facility === undefined ? number : number | (facility << BigInt(width));
}

const bitLength = (value: bigint): number => (value === 0n ? 1 : value.toString(2).length);

/** `composed`: whether layouts are put together that the library has not, and constants looked for in other orders of the read. */
export function analyse(
  specimens: Specimen[],
  library: readonly Format[],
  { composed: isComposed = true } = {},
): Analysis {
  const reads = specimens.map((s) => s.bits);
  const columns = columnsOfReads(reads);
  const length = reads[0]!.length;
  const readings = plainReadings(specimens).filter((r) => r.numbers.some((n) => n !== undefined));
  const built = readings.map((reading) => build(reading, specimens, columns));
  const [plain] = built;
  const searched = plain ? extraReadings(plain, specimens, columns, isComposed) : [];
  const { main, rivals } = choose([...built, ...searched]);
  const facilities = specimens.map((s, i) => s.facility ?? main?.reading.facilities[i]);
  const cards = { reads, numbers: specimens.map((_, i) => main?.reading.numbers[i]), facilities };
  const known = knownFormats(cards, library);
  const fromLibrary = libraryHypotheses(known, cards);
  const bcd = main?.reading.kind === 'digits in BCD or hex';
  const composed = main && isComposed ? structuresOf(main, cards, columns, bcd) : [];
  const nearPlaces = main && main.places.length === 0 ? nearlyPlaces(main, specimens) : [];
  return {
    specimens,
    reads,
    columns,
    length,
    main,
    nearPlaces,
    rivals,
    known,
    hypotheses: simplest(fromLibrary, composed),
    width: main ? widthOf(main.reading) : 1,
    facilities,
  };
}

const widthOf = (reading: PrintReading): number =>
  Math.max(1, ...reading.numbers.flatMap((n) => (n === undefined ? [] : [bitLength(n)])));

function build(reading: PrintReading, specimens: Specimen[], columns: readonly Column[]): Read {
  const inside = numbered(reading);
  const width = widthOf(reading);
  const facilities = inside.map((i) => specimens[i]!.facility ?? reading.facilities[i]);
  const all = facilities.every((f) => f !== undefined);
  const above = all ? Math.max(...facilities.map((f) => bitLength(f!))) : 0;
  const hullBy = (sum: CheckAt | undefined): Hull => {
    const made = new Hull(width + above, specimens[0]!.bits.length, inside.length, sum && turnedBy(sum));
    inside.forEach((i, k) => {
      made.add(keyOf(reading.numbers[i]!, all ? facilities[k] : undefined, width), specimens[i]!.bits);
    });
    return made;
  };
  const plain = hullBy(undefined);
  const sums = plain.contradicted
    ? sumOf(
        inside.map((i) => specimens[i]!.bits),
        plain.contradicted,
      )
    : [];
  const sum = sums.find((one) => hullBy(one).consistent);
  const hull = sum ? hullBy(sum) : plain;
  const own = inside.length === specimens.length ? columns : columnsOfReads(inside.map((i) => specimens[i]!.bits));
  const numbers = columnsOfNumbers(inside.map((i) => reading.numbers[i]!));
  // One card alone bears no unusual reading out: some place holds nearly any number by chance.
  const changing = numbers.filter((column) => varies(column, inside.length)).length;
  const evidence = numbers.length + changing * (inside.length - 1);
  const borneOut =
    reading.kind === 'as printed' ||
    reading.kind === 'a constant added' ||
    (changing > 0 && evidence >= EVIDENCE_FOR_DOUBT);
  const allSame = inside.length > 1 && new Set(inside.map((i) => reading.numbers[i])).size < 2;
  const places = !borneOut || allSame ? [] : placesOf({ reads: own, numbers, count: inside.length, misses: 0 });
  return { reading, hull, places, ...(sum && { sum }) };
}

/** Readings that are found in the bits: a constant added, or only the last digits printed. */
function extraReadings(plain: Read, specimens: Specimen[], columns: readonly Column[], inOtherOrders: boolean): Read[] {
  const inside = numbered(plain.reading);
  if (inside.length < 3) return [];
  const numbers = inside.map((i) => plain.reading.numbers[i]!);
  const reads = inside.map((i) => specimens[i]!.bits);
  const asSent = addedConstants(reads, numbers);
  const isOther = inOtherOrders && plain.places.length === 0 && asSent.length === 0;
  const others = isOther ? addedInOtherOrders({ reads, readings: [{ ...plain.reading, numbers }], asked: [] }) : [];
  const added = [...asSent, ...others].map((add) => build(withAdded(plain.reading, add), specimens, columns));
  const texts = inside.map((i) => specimens[i]!.prints[plain.reading.print]!.text.trim());
  const cut = plain.places.length === 0 && lastDigits(reads, numbers, texts);
  const last: Read[] = [];
  if (cut) {
    const whole = withLastDigits(plain.reading, texts[0]!.length, (i) => valueAt(cut, specimens[i]!.bits));
    const read = build(whole, specimens, columns);
    last.push(read.places.length > 0 ? read : { ...read, places: [cut] });
  }
  return [...added.filter((read) => read.places.length > 0), ...last];
}

/**
 * The reading that assumes least among those that agree with every specimen: the print as it stands where the bits bear
 * it out, else another that they bear out, else the print as it stands on the algebra alone.
 */
function choose(all: Read[]): { main: Read | undefined; rivals: Read[] } {
  const [plain] = all;
  if (!plain) return { main: undefined, rivals: [] };
  const agreeing = all.filter((read) => read.hull.consistent);
  const seen = agreeing.filter((read) => read.places.length > 0);
  const tested = agreeing.includes(plain) && plain.hull.checks >= 2;
  const main = seen.includes(plain) || tested ? plain : (seen[0] ?? plain);
  const rivals = seen.filter((read) => read !== main);
  // The print as it stands stays a rival while checks, not only the bits of one place, speak for it.
  if (main !== plain && agreeing.includes(plain) && plain.hull.checks > 0) rivals.push(plain);
  return { main, rivals };
}

function structuresOf(
  main: Read,
  cards: Parameters<typeof structures>[0],
  columns: readonly Column[],
  bcd: boolean,
): Hypothesis[] {
  if (numbered(main.reading).length < cards.reads.length) {
    // Cards without a print are laid over afterwards: the places come from those that have one.
    const places = main.places.slice(0, 2);
    return places.flatMap((place) => structures(cards, columns, place, bcd));
  }
  return main.places.slice(0, 4).flatMap((place) => structures(cards, columns, place, bcd));
}

/** The hypotheses that count: all of the library's, or the structures that are about as simple as the simplest. */
function simplest(fromLibrary: Hypothesis[], composed: Hypothesis[]): Hypothesis[] {
  const lines = new Set(fromLibrary.map((h) => h.line));
  const rest = composed.filter((h) => !lines.has(h.line)).sort((a, b) => a.cost - b.cost);
  if (fromLibrary.length > 0) return fromLibrary;
  const distinct = rest.filter((h, i) => rest.findIndex((other) => other.line === h.line) === i);
  return distinct.filter((h) => h.cost <= distinct[0]!.cost + 1.5).slice(0, 8);
}

/** So much must speak for a place, in bits, before a print that does not stand there is doubted. */
const EVIDENCE_FOR_DOUBT = 20;

/**
 * Places at which most specimens have their number: where one is mistyped, the others still show where it stands. A
 * specimen that takes part in a relation which holds is not doubted.
 */
function nearlyPlaces({ reading, hull }: Read, specimens: Specimen[]): NumberPlace[] {
  const inside = numbered(reading);
  if (inside.length < 5) return [];
  const numbers = columnsOfNumbers(inside.map((i) => reading.numbers[i]!));
  const reads = columnsOfReads(inside.map((i) => specimens[i]!.bits));
  const changing = numbers.filter((column) => varies(column, inside.length)).length;
  const misses = Math.ceil(inside.length * 0.2);
  const tested = hull.consistent ? new Set(hull.relations.flatMap((relation) => relation.of)) : new Set<number>();
  // Relations among neighbours cannot see an exchange within them: where each print of two stands in the other's bits, they count
  // for nothing.
  const isExchange = ({ misses: [a, b, ...more], ...place }: NumberPlace) => {
    if (a === undefined || b === undefined || more.length > 0) return false;
    const stands = (k: number) => valueAt({ ...place, misses: [] }, specimens[inside[k]!]!.bits);
    return stands(a) === reading.numbers[inside[b]!] && stands(b) === reading.numbers[inside[a]!];
  };
  return placesOf({ reads, numbers, count: inside.length, misses })
    .filter((place) => {
      const exchanged = isExchange(place);
      // Each of two that were exchanged bears the place out as well as any other card.
      const hits = inside.length - (exchanged ? 0 : place.misses.length);
      const evidence = numbers.length + (changing * (hits - 1)) / 2;
      return evidence >= EVIDENCE_FOR_DOUBT && (exchanged || place.misses.every((k) => !tested.has(k)));
    })
    .map((place) => ({ ...place, misses: place.misses.map((k) => inside[k]!) }))
    .slice(0, 4);
}
