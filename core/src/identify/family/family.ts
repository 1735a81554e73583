/**
 * The family: every format of a stated kind, counted by exhaustion. Of all of them those are left that agree with every card; a
 * prediction that all of these give is settled, and how likely another one is follows from what they weigh.
 *
 * A member says how the prints are read, where the number stands, and what each position outside it is. The positions are
 * independent of one another, so the members need not be listed: they are counted, and heard, position by position.
 */
import type { Bits } from '../../bits/index.ts';
import { type PrintReading, type PrintValue, withAdded } from '../readings.ts';
import { covers, coversOf } from './covers.ts';
import { Frame } from './frame.ts';
import { type NumberAt, numberPlaces } from './numberPlaces.ts';
import { type Difference, LOW_BITS, MOST_CHANGING, Outside, type Said } from './outside.ts';
import { addedBits, placeBits, readingBits } from './prior.ts';

export interface FamilyInput {
  /** Reads of one length, at least one; and what is printed on each card. */
  reads: readonly Bits[];
  readings: readonly PrintReading[];
  /** The prints that are asked about: where the number stands has to hold all of them. */
  asked: readonly PrintValue[];
  /** Whether there are cards with these prints, so that a format without them is none; they are taken to be unless this says no. */
  exist?: boolean;
  /** Other members, each by what it says: formats of the library that agree with every card. */
  also?: readonly Also[];
  /** So many ways to read the prints and places of the changing bits are gone through at most. */
  mostSites?: number;
  /** Whether constants added to the prints are looked for; they are unless it says no. */
  constants?: boolean;
}

export interface Also {
  /** As in "unless …". */
  words: string;
  /** What it weighs, in bits: less weighs more. */
  bits: number;
  /** The bits of a card; undefined where it has none with this print. */
  says(print: PrintValue): string | undefined;
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

/** How many bits the greatest number has under a reading. */
const widthUnder = (reading: PrintReading, asked: readonly PrintValue[]): number =>
  Math.max(1, ...[...reading.numbers, ...asked.map((print) => reading.numberOf(print))].map((n) => bitLength(n ?? 0n)));

const bitLength = (value: bigint): number => (value === 0n ? 1 : value.toString(2).length);

export class Family {
  private readonly sites: Site[] = [];
  private readonly also: (Also & { share: number })[];
  private readonly first: Bits;
  /** How many members agree with the cards. */
  readonly count: bigint;
  /** About how many there are, as a power of ten. */
  readonly size: string;

  /** Grows with the square of the length, and with the places that hold the numbers. */
  constructor(input: FamilyInput) {
    const { reads, readings } = input;
    this.first = reads[0]!;
    const frame = new Frame(reads);
    this.size = sizeOf(
      frame.length,
      [...new Set(readings.map((reading) => widthUnder(reading, input.asked)))].filter((w) => w < frame.length),
    );
    const found = this.found(input, frame);
    const places = found.flatMap((site) => site.places);
    const { also: all = [], exist = true, asked } = input;
    const also = exist ? all.filter(({ says }) => asked.every((print) => says(print) !== undefined)) : all;
    const weights = [...places, ...also].map(({ bits }) => bits);
    const least = Math.min(...weights);
    const total = weights.reduce((sum, bits) => sum + 2 ** (least - bits), 0);
    this.also = also.map((one) => ({ ...one, share: 2 ** (least - one.bits) / total }));
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
    this.count = places.reduce((sum, { count }) => sum + count, BigInt(also.length));
  }

  /** Nothing where there are too many sites to go through them all: then next to nothing is known, and nothing is settled. */
  private found(input: FamilyInput, frame: Frame): Site[] {
    const { readings, constants = true, mostSites = MOST_SITES } = input;
    const found: Site[] = [];
    const add = (sites: Site[] | undefined): boolean => {
      if (!sites || found.length + sites.length > mostSites) return false;
      found.push(...sites);
      return true;
    };
    for (const reading of readings) if (!add(sitesOf(input, frame, reading, mostSites))) return [];
    const standing = ({ changing, places }: Site) => changing.map((k) => places[0]!.place.positions[k]).join();
    const taken = new Set(found.map(standing));
    for (const constant of constants ? addedTo(input) : []) {
      const sites = sitesOf(input, frame, withAdded(readings[0]!, constant), mostSites);
      if (!add(sites?.filter((site) => !taken.has(standing(site))))) return [];
    }
    return found;
  }

  get isEmpty(): boolean {
    return this.sites.length + this.also.length === 0;
  }

  /** Undefined where no member agrees with the cards, or the print is no number under the readings that are left. */
  predict(print: PrintValue): Prediction | undefined {
    const heard = this.sites.flatMap((site) => {
      const number = site.reading.numberOf(print);
      return number === undefined ? [] : [this.heard(site, number)];
    });
    const told = this.also.flatMap((one) => {
      const bits = one.says(print);
      return bits === undefined ? [] : [{ ...one, said: bits }];
    });
    const candidates = new Map<string, number>();
    for (const said of [
      ...heard.slice(0, MOST_CANDIDATES).map(({ likeliest }) => likeliest),
      ...told.map((one) => one.said),
    ])
      if (!candidates.has(said))
        candidates.set(
          said,
          told.reduce((sum, one) => sum + (one.said === said ? one.share : 0), oddsOf(heard, said)),
        );
    const [best] = [...candidates].sort((a, b) => b[1] - a[1]);
    if (!best) return undefined;
    const [bits, odds] = best;
    const settledBits = Array.from(
      { length: bits.length },
      (_, p) =>
        heard.every(({ may }) => may[p] === (bits[p] === '1' ? 2 : 1)) && told.every(({ said }) => said[p] === bits[p]),
    );
    const silent = this.also.find((one) => one.says(print) === undefined);
    const settled = settledBits.every(Boolean) && !silent;
    if (settled) return { bits, settled, odds: 1, settledBits };
    return {
      bits,
      settled,
      odds: Math.min(odds, 1),
      settledBits,
      rival: () => {
        if (silent) return { bits: '', words: `unless ${silent.words}, which has no card of this number` };
        const other = told.find(({ said }) => said !== bits);
        const own = heard.some(({ may }) => settledBits.some((is, p) => !is && may[p] !== (bits[p] === '1' ? 2 : 1)));
        if (other && (!own || other.share > ELSEWHERE)) return { bits: other.said, words: `unless ${other.words}` };
        return this.rivalOf(heard, bits, settledBits);
      },
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
const MOST_SITES = 40;

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

/** The members under one way to read the prints that agree with every card; undefined where there are more sites than `most`. */
function sitesOf({ reads, asked }: FamilyInput, frame: Frame, reading: PrintReading, most: number): Site[] | undefined {
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

/** How many places a number of a width has: in one piece, in three orders, or in two; inverted or not. */
function placesOf(length: number, width: number): number {
  const [once, spare] = [length - width + 1, length - width];
  const onePiece = once * (1 + (width > 1 ? 1 : 0) + (width > 8 ? 1 : 0));
  // A cut, an order of the two pieces, and how the free positions lie before, between (at least one) and after them; the low
  // piece directly after the high one is one piece.
  const apart = (spare * (spare + 1)) / 2;
  return 2 * (onePiece + (width - 1) * (2 * apart + once));
}

/**
 * About how many members the family has before any card is read, as a power of ten: for each place of the number, every position
 * outside is a constant, or parity in either sense over any cover, in which each of the four ends is a constant or parity itself.
 */
function sizeOf(length: number, widths: readonly number[]): string {
  const all = coversOf(length);
  const ends = [...new Set([0, 1, length - 2, length - 1])];
  let parities = 0;
  for (let i = 0; i < all.count; i++) parities += (1 + all.count) ** ends.filter((end) => covers(all, i, end)).length;
  const each = Math.log10(2 * (1 + parities));
  const logs = widths.map((width) => Math.log10(placesOf(length, width)) + (length - width) * each);
  const most = Math.max(...logs);
  const log = most + Math.log10(logs.reduce((sum, one) => sum + 10 ** (one - most), 0));
  const power = Math.floor(log);
  return `${(10 ** (log - power)).toFixed(1)}e${power}`;
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
