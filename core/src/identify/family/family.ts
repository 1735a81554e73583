/**
 * The family: every format of a stated kind, counted by exhaustion. Of all of them those are left that agree with every card; a
 * prediction that all of these give is settled, and how likely another one is follows from what they weigh.
 *
 * A member says how the prints are read, where the number stands, and what each position outside it is. The positions are
 * independent of one another, so the members need not be listed: they are counted, and heard, position by position.
 */
import type { Bits } from '../../bits/index.ts';
import type { PrintReading, PrintValue } from '../cards/readings.ts';
import { type CheckAt, checkInWords } from './checks.ts';
import { Frame } from './frame.ts';
import { type Heard, heardAt, oddsOf } from './heard.ts';
import type { Hearing } from './hearing.ts';
import type { Outside } from './outside.ts';
import { differenceOf, type Site, siteInWords } from './sites.ts';
import { sizeOf } from './size.ts';
import { type Also, type FamilyInput, survivorsOf } from './survivors.ts';

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

export class Family implements Hearing {
  private readonly sites: Site[] = [];
  private readonly also: (Also & { share: number })[];
  private readonly first: Bits;
  private readonly firstBits: Uint8Array;
  private readonly kept = new Map<string, readonly Heard[]>();
  /** Whether all checks were gone through: of few cards there are too many, and nothing is settled. */
  private readonly areAll: boolean;
  /** Whether the places of the number were gone through: of few cards there are too many, and it says nothing. */
  readonly isHeard: boolean;
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
    this.firstBits = Uint8Array.from({ length: this.first.length }, (_, p) => this.first.at(p + 1));
    this.size = sizeOf(
      frame.length,
      [...new Set(readings.map((reading) => widthUnder(reading, input.asked)))].filter((w) => w < frame.length),
    );
    const { sites, outsiders, areAll } = survivorsOf(input, frame);
    const found = sites ?? [];
    this.areAll = areAll;
    this.isHeard = sites !== undefined;
    const places = found.flatMap((site) => site.places);
    const { also: besides = [], exist = true, asked } = input;
    const also = exist ? besides.filter(({ says }) => asked.every((print) => says(print) !== undefined)) : besides;
    const weights = [...places, ...also].map(({ bits }) => bits);
    const least = Math.min(...weights);
    const total = weights.reduce((sum, bits) => sum + 2 ** (least - bits), 0);
    this.evidence = sumOfBits([...weights, ...outsiders]);
    this.also = sites ? also.map((one) => ({ ...one, share: 2 ** (least - one.bits) / total })) : [];
    for (const site of found) {
      site.shares = site.places.map(({ bits }) => 2 ** (least - bits) / total);
      site.share = site.shares.reduce((sum, share) => sum + share, 0);
      site.places.forEach(({ isNumber }, i) => {
        isNumber.forEach((is, p) => {
          if (is) site.inNumber[p]! += site.share > 0 ? site.shares[i]! / site.share : 1 / site.places.length;
        });
      });
      // A share is a sum of floats; whether a position is of the number in every place is not.
      site.isAlways = Uint8Array.from(site.inNumber, (_, p) =>
        site.places.every(({ isNumber }) => isNumber[p]) ? 1 : 0,
      );
    }
    this.sites = found.toSorted((a, b) => b.share - a.share);
    this.count = places.reduce((sum, { count }) => sum + count, BigInt(this.also.length));
  }

  get isEmpty(): boolean {
    return this.sites.length + this.also.length === 0;
  }

  /** What each site says of a card; kept, as a card is both predicted and weighed against others. */
  private heardOf(print: PrintValue): readonly Heard[] {
    const known = this.kept.get(print.text);
    if (known) return known;
    const said = new Map<Outside, Site['said']>();
    const heard = this.sites.flatMap((site) => {
      const number = site.reading.numberOf(print);
      if (number === undefined) return [];
      // With a check and without, a site says the same of the rest.
      const difference = differenceOf(site, number);
      const own = said.get(site.outside) ?? site.outside.say(difference);
      said.set(site.outside, own);
      return [heardAt(site, number, difference, own, this.firstBits)];
    });
    if (this.first.length <= MOST_KEPT) this.kept.set(print.text, heard);
    return heard;
  }

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
    const settledBits = this.settledBits(
      bits,
      heard,
      told.map(({ said }) => said),
    );
    const silent = told.length < this.also.length ? this.also.find((one) => one.says(print) === undefined) : undefined;
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
        if (!own) return { bits: '', words: 'unless some bits are a check: so few cards agree with very many' };
        return this.rivalOf(heard, bits, settledBits);
      },
    };
  }

  /** By position: whether all that is heard and told gives this bit, and all there is was heard. */
  private settledBits(bits: string, heard: readonly Heard[], told: readonly string[]): boolean[] {
    const unread = this.areAll ? [] : heard.filter(({ site, number }) => !site.reading.numbers.includes(number));
    const settled: boolean[] = new Array(bits.length);
    for (let p = 0; p < bits.length; p++) {
      const wanted = bits[p] === '1' ? 2 : 1;
      let is = true;
      for (let i = 0; i < heard.length && is; i++) is = heard[i]!.may[p] === wanted;
      for (let i = 0; i < told.length && is; i++) is = told[i]![p] === bits[p];
      for (let i = 0; i < unread.length && is; i++) is = unread[i]!.site.outside.isChanging(p);
      settled[p] = is;
    }
    return settled;
  }

  saysOtherwise(print: PrintValue, bits: string): boolean {
    const isSum = ({ method }: CheckAt) => method.kind === 'sum';
    if (!this.sites.some(({ checks }) => checks.some(isSum))) return false;
    return this.heardOf(print).some(({ site: { checks }, may }) => {
      // What is over a sum carries, too.
      for (const { at, width } of checks.some(isSum) ? checks : [])
        for (let p = at; p < at + width; p++) if (may[p] !== (bits[p] === '1' ? 2 : 1)) return true;
      return false;
    });
  }

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
      const check = site.checks.find((one) => at >= one.at && at < one.at + one.width);
      if (check) return { bits: within.likeliest, words: `unless ${checkInWords(check)}` };
      const cover = site.outside.rivalCover(at, differenceOf(site, number), isAsBefore);
      const what = cover ? `parity over ${cover}` : 'parity over other parity bits';
      return { bits: flipped(bits, at), words: `unless bit ${at + 1} is ${what}` };
    }
    return { bits: elsewhere.likeliest, words: `unless ${siteInWords(elsewhere.site)}` };
  }
}

/** Another place of the number is named where it is not much less likely than this one. */
const ELSEWHERE = 0.02;
const MOST_CANDIDATES = 6;
/** Of longer reads what was heard is not kept. */
const MOST_KEPT = 128;

const flipped = (bits: string, at: number): string =>
  `${bits.slice(0, at)}${bits[at] === '1' ? 0 : 1}${bits.slice(at + 1)}`;
