/**
 * Sites: one way to read the prints, and where the number bits stand that change. Where its other bits stand makes no difference to
 * what is said of the rest, so those places are heard together.
 */
import type { Bits } from '../../bits/index.ts';
import { columnsOfNumbers, differencesOf } from '../cards/columns.ts';
import { type PrintReading, type PrintValue, readingInWords } from '../cards/readings.ts';
import { type CheckAt, checkInWords } from './checks.ts';
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

interface Tried {
  place: NumberAt;
  isNumber: Uint8Array;
  /** How many positions outside the number nothing of the family explains. */
  unexplained: number;
  /** Of the others: in how many ways they are explained, and what that weighs with the place. */
  count: bigint;
  bits: number;
}

/** One way to read the prints, and where the number bits stand that change; all places of it say the same of the rest. */
export interface Site {
  reading: PrintReading;
  outside: Outside;
  /** Every place of the number at this site, whether or not the rest of the read is explained beside it. */
  tried: Tried[];
  /** In how many ways each position outside may be explained, and what they weigh. */
  counts: bigint[];
  said: readonly (Said | undefined)[];
  /** Checks that some positions are, whatever else they might be; one that is over another's place stands behind it. */
  checks: readonly CheckAt[];
  /** Powers of two of the number bits that change. */
  changing: readonly number[];
  first: bigint;
  places: Placed[];
  /** The share of each place of all that survives. */
  shares: number[];
  share: number;
  /** By position: the part of that in which it is of the number, and does not change. */
  inNumber: Float64Array;
  /** By position: 1 where every place has a number bit there. */
  isAlways: Uint8Array;
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
  let other = number ^ first;
  let [word, at] = [Number(BigInt.asUintN(32, other)), 0];
  for (let j = 0; j < changing.length; j++) {
    const k = changing[j]!;
    for (; k - at >= 32; at += 32) {
      other >>= 32n;
      word = Number(BigInt.asUintN(32, other));
    }
    if (!((word >>> (k - at)) & 1)) continue;
    if (j < LOW_BITS) low |= 1 << j;
    else high |= 1 << (j - LOW_BITS);
  }
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
  const ofOwn = columnsOfNumbers(own as bigint[]);
  const columns = Array.from({ length: width }, (_, k) => (ofOwn[k] ? differencesOf(ofOwn[k], reads.length) : 0n));
  const stands = (k: number, p: number, inverted: boolean) =>
    frame.columns[p] === columns[k] && (reads[0]!.at(p + 1) ^ (inverted ? 1 : 0)) === Number((first >> BigInt(k)) & 1n);
  const outsiders: number[] = [];
  const sites = new Map<string, Site>();
  for (const place of numberPlaces({ length: frame.length, width, stands })) {
    const at = changing.map((k) => place.positions[k]!);
    const ends = place.positions.filter((p) => Math.min(p, frame.length - 1 - p) < 2);
    const key = `${at.join()};${ends.sort().join()}`;
    let site = sites.get(key);
    if (!site) {
      if (sites.size === most) return undefined;
      const outside = new Outside(frame, { changing: at, number: place.positions });
      const empty = {
        checks: [],
        places: [],
        shares: [],
        share: 0,
        inNumber: new Float64Array(frame.length),
        isAlways: new Uint8Array(frame.length),
      };
      const heard = { counts: outside.counts(), said: outside.say({ low: 0, high: 0 }) };
      site = { reading, outside, changing, first, tried: [], ...empty, ...heard };
      sites.set(key, site);
    }
    const added = reading.add === undefined ? 0 : addedBits(reading.add);
    const { one, unless } = tried(site, place, readingBits(reading.kind) + placeBits(place) + added);
    site.tried.push(one);
    if (one.unexplained === 0) site.places.push(one);
    else if (Number.isFinite(unless)) outsiders.push(unless);
  }
  return { sites: [...sites.values()], outsiders };
}

const weightOf = ({ said }: Pick<Site, 'said'>, p: number): number =>
  Math.log2(said[p]!.sameWeight + said[p]!.otherWeight);

/** `unless`: what it weighs if what is not explained is any sum at all. */
function tried(site: Site, place: NumberAt, bits: number): { one: Tried; unless: number } {
  const one: Tried = { place, isNumber: new Uint8Array(site.counts.length), unexplained: 0, count: 1n, bits };
  for (const p of place.positions) one.isNumber[p] = 1;
  let unless = 0;
  for (let p = 0; p < one.isNumber.length; p++) {
    if (one.isNumber[p]) continue;
    if (site.counts[p] === 0n) {
      one.unexplained++;
      unless -= weightOf(site, p);
    } else {
      one.count *= site.counts[p]!;
      one.bits -= weightOf(site, p);
    }
  }
  return { one, unless: one.bits + unless };
}

const isFreeOf =
  (check: CheckAt) =>
  ({ place, isNumber }: Tried): boolean =>
    place.inverted === check.inverted && !isNumber.subarray(check.at, check.at + check.width).includes(1);

/** Whether some positions may be a check over others at a site: one at least of those is a bit of the number that changes, none of these is. */
export function mayStandAt(site: Site, check: CheckAt): boolean {
  const positions = site.tried[0]!.place.positions;
  if (!site.changing.some((k) => positions[k]! >= check.first && positions[k]! <= check.last)) return false;
  for (let p = check.at; p < check.at + check.width; p++) if (site.outside.isChanging(p)) return false;
  return site.tried.some(isFreeOf(check));
}

/** The same site with checks that may stand there, none in another's place; undefined where something is left that nothing explains. */
export function withChecksAt(site: Site, checks: readonly CheckAt[]): Site | undefined {
  const { counts } = site;
  let [unexplained, count, weight] = [0, 1n, 0];
  for (const { at, width } of checks)
    for (let p = at; p < at + width; p++) {
      if (counts[p] === 0n) unexplained++;
      else {
        count *= counts[p]!;
        weight += weightOf(site, p);
      }
    }
  for (const { bits } of checks) weight += bits;
  // What a check explains is explained by it alone.
  const places = site.tried
    .filter((one) => one.unexplained === unexplained && checks.every((check) => isFreeOf(check)(one)))
    .map((one) => ({ ...one, count: one.count / count, bits: one.bits + weight }));
  if (places.length === 0) return undefined;
  return { ...site, checks, places, inNumber: new Float64Array(counts.length) };
}
/** Constants other than zero which, added to the prints, stand in one piece as sent in every read. */
export function addedTo(own: Case): bigint[] {
  return constantsIn(
    own,
    own.reads.map((bits) => bits.toBigInt()),
  );
}

/** The same in reads that come in another order or inverted; asked for where nothing simpler agrees. */
export function addedInOtherOrders(own: Case): bigint[] {
  if (new Set(own.reads.map((bits) => bits.toBinary())).size < LEAST_FOR_ORDER) return [];
  const found = new Set<bigint>();
  for (const inverted of [false, true]) {
    const texts = own.reads.slice(0, ENOUGH).map((bits) => (inverted ? bits.invert() : bits).toBinary());
    const orders = [
      texts,
      texts.map(reversedBits),
      ...EIGHT.map((cut) => texts.map((text) => reversedBytes(text, cut))),
    ];
    for (const order of orders.slice(inverted ? 0 : 1)) {
      if (order[0] === '') continue;
      const values = order.map((text) => BigInt(`0b${text}`));
      for (const constant of constantsIn(own, values)) found.add(constant);
    }
  }
  return [...found].slice(0, MOST_CONSTANTS);
}
const LEAST_FOR_ORDER = 3;
/** Of so many reads constants are taken; whether they stand in all of them shows when their places are looked for. */
const ENOUGH = 5;
const MOST_CONSTANTS = 8;
const EIGHT = [0, 1, 2, 3, 4, 5, 6, 7];

const reversedBits = (text: string): string => [...text].reverse().join('');
/** The whole bytes from a place on, the last one first. */
const reversedBytes = (text: string, cut: number): string => (text.slice(cut).match(/.{8}/g) ?? []).reverse().join('');

/** `values`: the reads as numbers, in an order in which the number is to stand in one piece. */
function constantsIn({ reads, readings, asked }: Case, values: readonly bigint[]): bigint[] {
  const [plain] = readings;
  if (plain?.kind !== 'as printed') return [];
  const numbers = plain.numbers;
  if (numbers.some((n) => n === undefined)) return [];
  const own = numbers as bigint[];
  const others = asked.flatMap((print) => plain.numberOf(print) ?? []);
  const [least, most] = [...own, ...others].reduce(([a, b], n) => [n < a ? n : a, n > b ? n : b], [own[0]!, own[0]!]);
  const { length } = reads[0]!;
  const found = new Set<bigint>();
  // In a narrower place not both the least and the most of them stand.
  const narrowest = bitLength(most - least);
  for (let drop = 0; drop < length; drop++)
    for (let width = narrowest; width <= length - drop; width++) {
      const mask = (1n << BigInt(width)) - 1n;
      const at = (i: number) => (values[i]! >> BigInt(drop)) & mask;
      const add = at(0) - own[0]!;
      if (least + add < 0n || most + add > mask) continue;
      if (add !== 0n && values.every((_, i) => at(i) - own[i]! === add)) found.add(add);
      break;
    }
  return [...found];
}
export function siteInWords({ reading, places, changing, checks }: Site): string {
  if (checks.length > 0) return checks.map(checkInWords).join(' and ');
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
      : reading.bytes
        ? readingInWords(reading)
        : `the print is read as ${reading.kind}`;
  return `${read}, and ${where}${how}`;
}
