/**
 * The family: every format of a stated kind, counted by exhaustion. Of all of them those are left that agree with every card; a
 * prediction that all of these give is settled, and how likely another one is follows from what they weigh.
 *
 * A member says how the prints are read, where the number stands, and what each position outside it is. The positions are
 * independent of one another, so the members need not be listed: they are counted, and heard, position by position.
 */
import type { Bits } from '../../bits/index.ts';
import { type PrintReading, type PrintValue, withAdded } from '../cards/readings.ts';
import { Frame } from './frame.ts';
import { addedTo, differenceOf, type Found, type Placed, type Site, siteInWords, sitesOf } from './sites.ts';
import { sizeOf } from './size.ts';

export interface FamilyInput {
  /** Reads of one length, at least one; and what is printed on each card. */
  reads: readonly Bits[];
  /** The same as columns, where they are at hand. */
  frame?: Frame;
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

const entropy = (one: number): number =>
  one > 0 && one < 1 ? -one * Math.log2(one) - (1 - one) * Math.log2(1 - one) : 0;

/** The logarithm of what all of them weigh together. */
function sumOfBits(all: readonly number[]): number {
  if (all.length === 0) return Number.NEGATIVE_INFINITY;
  const least = Math.min(...all);
  return Math.log2(all.reduce((sum, bits) => sum + 2 ** (least - bits), 0)) - least;
}

/** How many bits the greatest number has under a reading. */
const widthUnder = (reading: PrintReading, asked: readonly PrintValue[]): number =>
  Math.max(1, ...[...reading.numbers, ...asked.map((print) => reading.numberOf(print))].map((n) => bitLength(n ?? 0n)));

const bitLength = (value: bigint): number => (value === 0n ? 1 : value.toString(2).length);

export class Family {
  private readonly sites: Site[] = [];
  /** What formats weigh that agree with the cards and are none of the family, in bits. */
  private readonly outsiders: number[] = [];
  private readonly also: (Also & { share: number })[];
  private readonly first: Bits;
  private readonly kept = new Map<string, readonly Heard[]>();
  /** How many members agree with the cards. */
  readonly count: bigint;
  /** About how many there are, as a power of ten. */
  readonly size: string;
  /**
   * How well formats explain the reads, given the prints, in bits: the logarithm of what its members weigh together that are left,
   * and those that are no members as some position is another sum of number bits. -Infinity where none is left.
   */
  readonly evidence: number;

  /** Grows with the square of the length, and with the places that hold the numbers. */
  constructor(input: FamilyInput) {
    const { reads, readings, frame = new Frame(reads) } = input;
    this.first = reads[0]!;
    this.size = sizeOf(
      frame.length,
      [...new Set(readings.map((reading) => widthUnder(reading, input.asked)))].filter((w) => w < frame.length),
    );
    const all = this.found(input, frame);
    const found = all ?? [];
    const places = found.flatMap((site) => site.places);
    const { also: besides = [], exist = true, asked } = input;
    const also = exist ? besides.filter(({ says }) => asked.every((print) => says(print) !== undefined)) : besides;
    const weights = [...places, ...also].map(({ bits }) => bits);
    const least = Math.min(...weights);
    const total = weights.reduce((sum, bits) => sum + 2 ** (least - bits), 0);
    this.evidence = sumOfBits([...weights, ...this.outsiders]);
    this.also = all ? also.map((one) => ({ ...one, share: 2 ** (least - one.bits) / total })) : [];
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
    this.count = places.reduce((sum, { count }) => sum + count, BigInt(this.also.length));
  }

  /** Undefined where there are too many sites to go through them all: then next to nothing is known, and nothing is settled. */
  private found(input: FamilyInput, frame: Frame): Site[] | undefined {
    const { readings, constants = true, mostSites = MOST_SITES } = input;
    const found: Site[] = [];
    const add = (more: Found | undefined): boolean => {
      if (!more || found.length + more.sites.length > mostSites) return false;
      found.push(...more.sites);
      this.outsiders.push(...more.outsiders);
      return true;
    };
    for (const reading of readings) if (!add(sitesOf(input, frame, reading, mostSites))) return undefined;
    const standing = ({ changing, places }: Site) => changing.map((k) => places[0]!.place.positions[k]).join();
    const taken = new Set(found.map(standing));
    for (const constant of constants ? addedTo(input) : []) {
      const more = sitesOf(input, frame, withAdded(readings[0]!, constant), mostSites);
      const sites = more?.sites.filter((site) => !taken.has(standing(site)));
      if (!add(more && { sites: sites!, outsiders: [] })) return undefined;
    }
    return found;
  }

  get isEmpty(): boolean {
    return this.sites.length + this.also.length === 0;
  }

  /** What each site says of a card; kept, as a card is both predicted and weighed against others. */
  private heardOf(print: PrintValue): readonly Heard[] {
    const known = this.kept.get(print.text);
    if (known) return known;
    const heard = this.sites.flatMap((site) => {
      const number = site.reading.numberOf(print);
      return number === undefined ? [] : [this.heard(site, number)];
    });
    if (this.first.length <= MOST_KEPT) this.kept.set(print.text, heard);
    return heard;
  }

  /** Undefined where no member agrees with the cards, or the print is no number under the readings that are left. */
  predict(print: PrintValue): Prediction | undefined {
    const heard = this.heardOf(print);
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

  /** How open each position of a card is, in bits from 0 to 1, and 0 where it is settled; undefined where the print is no number. */
  openness(print: PrintValue): Float64Array | undefined {
    const chances = new Float64Array(this.first.length);
    // 1 where a member gives 0, 2 where one gives 1.
    const may = new Uint8Array(this.first.length);
    let all = 0;
    for (const heard of this.heardOf(print)) {
      const { share } = heard.site;
      all += share;
      for (let p = 0; p < chances.length; p++) {
        chances[p]! += share * heard.ones[p]!;
        may[p]! |= heard.may[p]!;
      }
    }
    for (const one of this.also) {
      const bits = one.says(print);
      if (bits === undefined) continue;
      all += one.share;
      for (let p = 0; p < bits.length; p++) {
        if (bits[p] === '1') chances[p]! += one.share;
        may[p]! |= bits[p] === '1' ? 2 : 1;
      }
    }
    return all > 0 ? chances.map((chance, p) => (may[p] === 3 ? entropy(chance / all) : 0)) : undefined;
  }

  /** Bits that a card may have, by how likely they are; `random` gives numbers from 0 to below 1. */
  sample(print: PrintValue, random: () => number): string | undefined {
    const heard = this.heardOf(print).map(({ site, ones }) => ({ share: site.share, made: () => ones }));
    const told = this.also.flatMap((one) => {
      const bits = one.says(print);
      return bits === undefined ? [] : [{ share: one.share, made: () => Float64Array.from(bits, Number) }];
    });
    const all = [...heard, ...told];
    let left = random() * all.reduce((sum, { share }) => sum + share, 0);
    const ones = all.find(({ share }) => (left -= share) <= 0)?.made();
    return ones && Array.from(ones, (one) => (random() < one ? '1' : '0')).join('');
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
/** Of longer reads what was heard is not kept. */
const MOST_KEPT = 128;

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
