/**
 * The family: every format of a stated kind, counted by exhaustion. Of all of them those are left that agree with every card; a
 * prediction that all of these give is settled, and how likely another one is follows from what they weigh.
 *
 * A member says how the prints are read, where the number stands, and what each position outside it is. The positions are
 * independent of one another, so the members need not be listed: they are counted, and heard, position by position.
 */
import type { Bits } from '../../bits/index.ts';
import { type PrintReading, type PrintValue, withAdded } from '../readings.ts';
import { coversOf } from './covers.ts';
import { Frame } from './frame.ts';
import { type NumberAt, numberPlaces } from './numberPlaces.ts';
import { type Difference, LOW_BITS, MOST_CHANGING, Outside, type Said } from './outside.ts';
import { addedBits, placeBits, readingBits } from './prior.ts';

export interface FamilyInput {
  /** Reads of one length, at least one; and what is printed on each card. */
  reads: readonly Bits[];
  readings: readonly PrintReading[];
  /** The prints that are asked about: what holds a number has to hold all of them. */
  asked: readonly PrintValue[];
  /** Whether constants added to the prints are looked for; they are unless it says no. */
  constants?: boolean;
}

export interface Prediction {
  bits: string;
  /** Whether every member that agrees with the cards gives it. */
  settled: boolean;
  /** How likely it is, from 0 to 1; 1 where it is settled. */
  odds: number;
  /** By position from 0: whether every member gives this bit. */
  settledBits: boolean[];
  /** Where it is not settled: the likeliest other bits, and what a member that gives them says. */
  rival?: () => Rival;
}

export interface Rival {
  bits: string;
  words: string;
}

/** A place of the number that agrees with every card; those of one site differ in what does not change. */
interface Placed {
  place: NumberAt;
  isNumber: Uint8Array;
  count: bigint;
  /** What it weighs, in bits: less weighs more. */
  bits: number;
}

/** One way to read the prints, and where the number bits stand that change; all places of it say the same of the rest. */
interface Site {
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

const bitLength = (value: bigint): number => (value === 0n ? 1 : value.toString(2).length);

export class Family {
  private readonly sites: Site[] = [];
  private readonly first: Bits;
  readonly count: bigint;

  /** Grows with the square of the length, and with the places that hold the numbers. */
  constructor(input: FamilyInput) {
    const { reads, readings } = input;
    this.first = reads[0]!;
    const frame = new Frame(reads);
    const found = readings.flatMap((reading) => sitesOf(input, frame, reading));
    const standing = (site: Site) => site.changing.map((k) => site.places[0]!.place.positions[k]).join();
    const taken = new Set(found.map(standing));
    for (const add of input.constants === false ? [] : addedTo(input))
      found.push(...sitesOf(input, frame, withAdded(readings[0]!, add)).filter((site) => !taken.has(standing(site))));
    const places = found.flatMap((site) => site.places);
    const least = Math.min(...places.map(({ bits }) => bits));
    const total = places.reduce((sum, { bits }) => sum + 2 ** (least - bits), 0);
    for (const site of found) {
      site.shares = site.places.map(({ bits }) => 2 ** (least - bits) / total);
      site.share = site.shares.reduce((sum, share) => sum + share, 0);
      site.places.forEach(({ isNumber }, i) => {
        isNumber.forEach((is, p) => {
          if (is) site.inNumber[p]! += site.share > 0 ? site.shares[i]! / site.share : 1 / site.places.length;
        });
      });
    }
    this.sites = found.toSorted((a, b) => b.share - a.share);
    this.count = places.reduce((sum, { count }) => sum + count, 0n);
  }

  get isEmpty(): boolean {
    return this.sites.length === 0;
  }

  /** Undefined where no member agrees with the cards, or the print is no number under the readings that are left. */
  predict(print: PrintValue): Prediction | undefined {
    const heard = this.sites.flatMap((site) => {
      const number = site.reading.numberOf(print);
      return number === undefined ? [] : [this.heard(site, number)];
    });
    if (heard.length === 0) return undefined;
    const candidates = new Map<string, number>();
    for (const { likeliest } of heard.slice(0, MOST_CANDIDATES))
      if (!candidates.has(likeliest)) candidates.set(likeliest, oddsOf(heard, likeliest));
    const [[bits, odds]] = [...candidates].sort((a, b) => b[1] - a[1]) as [[string, number]];
    const settledBits = Array.from({ length: bits.length }, (_, p) =>
      heard.every(({ may }) => may[p] === (bits[p] === '1' ? 2 : 1)),
    );
    const settled = settledBits.every(Boolean);
    if (settled) return { bits, settled, odds: 1, settledBits };
    return {
      bits,
      settled,
      odds: Math.min(odds, 1),
      settledBits,
      rival: () => this.rivalOf(heard, bits, settledBits),
    };
  }

  private heard(site: Site, number: bigint): Heard {
    const { outside, places, inNumber, changing } = site;
    const said = outside.say(differenceOf(site, number));
    const { length } = said;
    const may = new Uint8Array(length);
    const ones = new Float64Array(length);
    for (let p = 0; p < length; p++) {
      const before = this.first.at(p + 1);
      const one = said[p];
      // A share is a sum of floats; whether a position is of the number in every place is not.
      const isAlways = inNumber[p]! > 0 && places.every(({ isNumber }) => isNumber[p]);
      const [same, other] = one && !isAlways ? [one.same + one.either > 0, one.other + one.either > 0] : [true, false];
      may[p] = (same || inNumber[p]! > 0 ? (before ? 2 : 1) : 0) | (other ? (before ? 1 : 2) : 0);
      const stays = one && !isAlways ? one.sameWeight / (one.sameWeight + one.otherWeight) : 1;
      ones[p] = before ? stays : 1 - stays;
    }
    const [{ place }] = places as [Placed];
    for (const k of changing) {
      const bit = Number((number >> BigInt(k)) & 1n) ^ (place.inverted ? 1 : 0);
      may[place.positions[k]!] = bit ? 2 : 1;
      ones[place.positions[k]!] = bit;
    }
    let likeliest = '';
    for (let p = 0; p < length; p++) {
      const fixed = outside.isChanging(p) ? 0 : inNumber[p]!;
      likeliest += fixed * this.first.at(p + 1) + (1 - fixed) * ones[p]! >= 0.5 ? '1' : '0';
    }
    return { site, number, may, ones, likeliest };
  }

  /** The likeliest that says otherwise. */
  private rivalOf(heard: readonly Heard[], bits: string, settledBits: readonly boolean[]): Rival {
    const at = settledBits.indexOf(false);
    const within = heard.find(({ may }) => may[at] !== (bits[at] === '1' ? 2 : 1))!;
    const elsewhere = heard.find(({ likeliest }) => likeliest !== bits);
    const { site, number } = within;
    if (!elsewhere || elsewhere.site.share < ELSEWHERE * site.share || elsewhere.site === site) {
      const isAsBefore = bits[at] === String(this.first.at(at + 1));
      const cover = site.outside.rivalCover(at, differenceOf(site, number), isAsBefore);
      const what = cover ? `parity over ${cover}` : 'parity over other parity bits';
      return { bits: flipped(bits, at), words: `unless bit ${at + 1} is ${what}` };
    }
    return { bits: elsewhere.likeliest, words: `unless ${siteInWords(elsewhere.site)}` };
  }
}

interface Heard {
  site: Site;
  number: bigint;
  /** By position: 1 may be 0, 2 may be 1, 3 either. */
  may: Uint8Array;
  /** How likely it is 1, where it is not of the number. */
  ones: Float64Array;
  likeliest: string;
}
/** Another place of the number is named where it is not much less likely than this one. */
const ELSEWHERE = 0.02;
const MOST_CANDIDATES = 6;

function oddsOf(heard: readonly Heard[], bits: string): number {
  let odds = 0;
  for (const { site, ones } of heard) {
    const { places, shares, outside } = site;
    for (const [i, { isNumber }] of places.entries()) {
      let own = shares[i]!;
      for (let p = 0; p < bits.length && own > 0; p++)
        if (!isNumber[p] || outside.isChanging(p)) own *= bits[p] === '1' ? ones[p]! : 1 - ones[p]!;
      odds += own;
    }
  }
  return odds;
}

const flipped = (bits: string, at: number): string =>
  `${bits.slice(0, at)}${bits[at] === '1' ? 0 : 1}${bits.slice(at + 1)}`;

function differenceOf({ changing, first }: Pick<Site, 'changing' | 'first'>, number: bigint): Difference {
  let [low, high] = [0, 0];
  const other = number ^ first;
  changing.forEach((k, j) => {
    if (!((other >> BigInt(k)) & 1n)) return;
    if (j < LOW_BITS) low |= 1 << j;
    else high |= 1 << (j - LOW_BITS);
  });
  return { low, high };
}

/** The members under one way to read the prints that agree with every card. */
function sitesOf({ reads, asked }: FamilyInput, frame: Frame, reading: PrintReading): Site[] {
  const own = reading.numbers;
  const others = asked.map((print) => reading.numberOf(print));
  if (own.some((n) => n === undefined) || others.some((n) => n === undefined)) return [];
  const numbers = [...own, ...others] as bigint[];
  const first = numbers[0]!;
  const width = Math.max(...numbers.map(bitLength));
  if (width > frame.length) return [];
  let changes = 0n;
  for (const number of numbers) changes |= number ^ first;
  const changing = Array.from({ length: width }, (_, k) => k).filter((k) => (changes >> BigInt(k)) & 1n);
  if (changing.length === 0 || changing.length > MOST_CHANGING) return [];
  const columns = Array.from({ length: width }, (_, k) => {
    let column = 0n;
    for (let i = reads.length - 1; i > 0; i--) column = (column << 1n) | (((own[i]! ^ first) >> BigInt(k)) & 1n);
    return column;
  });
  const stands = (k: number, p: number, inverted: boolean) =>
    frame.columns[p] === columns[k] && (reads[0]!.at(p + 1) ^ (inverted ? 1 : 0)) === Number((first >> BigInt(k)) & 1n);
  const sites = new Map<string, Site & { counts: bigint[]; said: (Said | undefined)[] }>();
  for (const place of numberPlaces({ length: frame.length, width, stands })) {
    const at = changing.map((k) => place.positions[k]!);
    const ends = place.positions.filter((p) => Math.min(p, frame.length - 1 - p) < 2);
    const key = `${at.join()};${ends.sort().join()}`;
    let site = sites.get(key);
    if (!site) {
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
  }
  return [...sites.values()].filter(({ places }) => places.length > 0);
}

/** Constants other than zero which, added to the prints, stand in one piece as sent in every read. */
function addedTo({ reads, readings, asked }: FamilyInput): bigint[] {
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

/** How many members the family has, before any card is read: for reads of a length and numbers of so many bits. */
export function familySize(length: number, width: number, readings: number): number {
  // Of each place the positions outside are as good as one another: each a constant, or parity in either sense.
  const each = 2 * (1 + coversOf(length).count);
  const places =
    2 *
    (2 * (length - width + 1) +
      (width > 8 ? length - width + 1 : 0) +
      ((length - width) * (length - width + 1) * (width - 1)) / 2);
  return Math.log10(readings * places) + (length - width) * Math.log10(each);
}

function siteInWords({ reading, places, changing }: Site): string {
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
