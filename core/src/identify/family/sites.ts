/**
 * Sites: one way to read the prints, and where the number bits stand that change. Where its other bits stand makes no difference to
 * what is said of the rest, so those places are heard together.
 */
import type { Bits } from '../../bits/index.ts';
import type { PrintReading, PrintValue } from '../cards/readings.ts';
import type { Frame } from './frame.ts';
import { LOW_BITS, MOST_CHANGING } from './groups.ts';
import { type NumberAt, numberPlaces } from './numberPlaces.ts';
import { type Difference, Outside, type Said } from './outside.ts';
import { addedBits, placeBits, readingBits } from './prior.ts';

/** A place of the number that agrees with every card; those of one site differ in what does not change. */
export interface Placed {
  place: NumberAt;
  isNumber: Uint8Array;
  count: bigint;
  /** What it weighs, in bits: less weighs more. */
  bits: number;
}

/** One way to read the prints, and where the number bits stand that change; all places of it say the same of the rest. */
export interface Site {
  reading: PrintReading;
  outside: Outside;
  /** Powers of two of the number bits that change. */
  changing: readonly number[];
  first: bigint;
  places: Placed[];
  /** The share of each place of all that survives. */
  shares: number[];
  share: number;
  /** By position: the part of that in which it is of the number, and does not change. */
  inNumber: Float64Array;
}

/** What a case gives: reads of one length, and the prints that are asked about. */
interface Case {
  reads: readonly Bits[];
  readings: readonly PrintReading[];
  asked: readonly PrintValue[];
}

const bitLength = (value: bigint): number => (value === 0n ? 1 : value.toString(2).length);

/** Which of the changing number bits of a number are other than on the first card. */
export function differenceOf({ changing, first }: Pick<Site, 'changing' | 'first'>, number: bigint): Difference {
  let [low, high] = [0, 0];
  const other = number ^ first;
  changing.forEach((k, j) => {
    if (!((other >> BigInt(k)) & 1n)) return;
    if (j < LOW_BITS) low |= 1 << j;
    else high |= 1 << (j - LOW_BITS);
  });
  return { low, high };
}
export interface Found {
  sites: Site[];
  /** What other places weigh, in bits, where some position is a sum that no member has: formats outside the family. */
  outsiders: number[];
}

/** The members under one way to read the prints that agree with every card; undefined where there are more sites than `most`, or too many bits change. */
export function sitesOf(
  { reads, asked }: Pick<Case, 'reads' | 'asked'>,
  frame: Frame,
  reading: PrintReading,
  most: number,
): Found | undefined {
  const own = reading.numbers;
  const none: Found = { sites: [], outsiders: [] };
  const others = asked.map((print) => reading.numberOf(print));
  if (own.some((n) => n === undefined) || others.some((n) => n === undefined)) return none;
  const numbers = [...own, ...others] as bigint[];
  const first = numbers[0]!;
  const width = Math.max(...numbers.map(bitLength));
  if (width > frame.length) return none;
  let changes = 0n;
  for (const number of numbers) changes |= number ^ first;
  const changing = Array.from({ length: width }, (_, k) => k).filter((k) => (changes >> BigInt(k)) & 1n);
  if (changing.length === 0) return none;
  if (changing.length > MOST_CHANGING) return undefined;
  const columns = Array.from({ length: width }, (_, k) => {
    let column = 0n;
    for (let i = reads.length - 1; i > 0; i--) column = (column << 1n) | (((own[i]! ^ first) >> BigInt(k)) & 1n);
    return column;
  });
  const stands = (k: number, p: number, inverted: boolean) =>
    frame.columns[p] === columns[k] && (reads[0]!.at(p + 1) ^ (inverted ? 1 : 0)) === Number((first >> BigInt(k)) & 1n);
  const outsiders: number[] = [];
  const sites = new Map<string, Site & { counts: bigint[]; said: (Said | undefined)[] }>();
  for (const place of numberPlaces({ length: frame.length, width, stands })) {
    const at = changing.map((k) => place.positions[k]!);
    const ends = place.positions.filter((p) => Math.min(p, frame.length - 1 - p) < 2);
    const key = `${at.join()};${ends.sort().join()}`;
    let site = sites.get(key);
    if (!site) {
      if (sites.size === most) return undefined;
      const outside = new Outside(frame, { changing: at, number: place.positions });
      const empty = { places: [], shares: [], share: 0, inNumber: new Float64Array(frame.length) };
      const heard = { counts: outside.counts(), said: outside.say({ low: 0, high: 0 }) };
      site = { reading, outside, changing, first, ...empty, ...heard };
      sites.set(key, site);
    }
    const isNumber = new Uint8Array(frame.length);
    for (const p of place.positions) isNumber[p] = 1;
    let count = 1n;
    let bits = readingBits(reading.kind) + placeBits(place) + (reading.add === undefined ? 0 : addedBits(reading.add));
    for (let p = 0; p < frame.length; p++) {
      if (isNumber[p]) continue;
      count *= site.counts[p]!;
      const one = site.said[p]!;
      bits -= Math.log2(one.sameWeight + one.otherWeight);
    }
    if (count > 0n) site.places.push({ place, isNumber, count, bits });
    else if (Number.isFinite(bits)) outsiders.push(bits);
  }
  return { sites: [...sites.values()].filter(({ places }) => places.length > 0), outsiders };
}
/** Constants other than zero which, added to the prints, stand in one piece as sent in every read. */
export function addedTo({ reads, readings, asked }: Case): bigint[] {
  const [plain] = readings;
  if (plain?.kind !== 'as printed') return [];
  const numbers = plain.numbers;
  if (numbers.some((n) => n === undefined)) return [];
  const own = numbers as bigint[];
  const others = asked.flatMap((print) => plain.numberOf(print) ?? []);
  const [least, most] = [...own, ...others].reduce(([a, b], n) => [n < a ? n : a, n > b ? n : b], [own[0]!, own[0]!]);
  const values = reads.map((bits) => bits.toBigInt());
  const { length } = reads[0]!;
  const found = new Set<bigint>();
  for (let drop = 0; drop < length; drop++)
    for (let width = 1; width <= length - drop; width++) {
      const mask = (1n << BigInt(width)) - 1n;
      const at = (i: number) => (values[i]! >> BigInt(drop)) & mask;
      const add = at(0) - own[0]!;
      if (least + add < 0n || most + add > mask) continue;
      if (add !== 0n && own.every((number, i) => at(i) - number === add)) found.add(add);
      break;
    }
  return [...found];
}
export function siteInWords({ reading, places, changing }: Site): string {
  const [{ place }] = places as [Placed];
  const at = changing.map((k) => place.positions[k]! + 1);
  const [from, to] = [Math.min(...at), Math.max(...at)];
  const how = [place.order === 'as sent' ? '' : `, ${place.order}`, place.inverted ? ', inverted' : ''].join('');
  const where =
    from === to ? `the changing bit of the number is bit ${from}` : `its changing bits stand in bits ${from} to ${to}`;
  if (reading.kind === 'as printed') return `${where}${how}`;
  const add = reading.add ?? 0n;
  const read =
    reading.kind === 'a constant added'
      ? `the number is the print ${add < 0n ? `less ${-add}` : `plus ${add}`}`
      : `the print is read as ${reading.kind}`;
  return `${read}, and ${where}${how}`;
}
