/**
 * What stands outside the number. Each position there is a constant or a parity bit, by itself; of a parity bit's cover the
 * number bits that change count, the parity bits among the two positions at either end are expanded to what they cover
 * themselves, and everything else in it is constant.
 *
 * What a position may be is kept as groups of covers that say the same of every number: those with the same changing number bits
 * and the same ends in them. So what is said of a number costs by the groups, not by the covers.
 */
import { basisOf, reduced } from './basis.ts';
import { type Constant, constantCovers } from './constantCovers.ts';
import { type Covers, covers, KINDS, Sums } from './covers.ts';
import type { Frame } from './frame.ts';
import { type Group, Groups, HIGH_BITS, HIGH_MASK, LOW_BITS, odd } from './groups.ts';
import { ANY_SUM, coverWeight, cutBits, parityShare } from './prior.ts';

/** Which changing number bits of a number are other than those of the first card. */
export interface Difference {
  low: number;
  high: number;
}

/** 1 where the changing number bit `j` is other. */
export const isOther = ({ low, high }: Difference, j: number): number =>
  (j < LOW_BITS ? low >> j : high >> (j - LOW_BITS)) & 1;

/** What may be said of one position for one number: how many covers say that it is as on the first card, how many otherwise. */
export interface Said {
  same: number;
  other: number;
  /** Covers with an end in them that may be either. */
  either: number;
  sameWeight: number;
  otherWeight: number;
}

/** Where the changing number bits stand, and which of the ends are not of the number. */
export interface Placing {
  /** Positions (from 0) of the changing number bits, in their order. */
  changing: readonly number[];
  /** Positions of all number bits. */
  number: readonly number[];
}

/** Which of more sums are odd does not go into one number. */
const MOST_SUMS = 52;

export class Outside {
  private readonly length: number;
  private readonly covers: Covers;
  /** The ends that are outside the number: position, or -1. */
  private readonly ends: number[];
  private readonly isNumber: Uint8Array;
  readonly low: Sums;
  /** Bits of the second word, and above them the ends. */
  readonly high: Sums;
  /** Changing positions outside the number: all, and those that are no ends. */
  readonly bad: Sums;
  readonly badWithin: Sums;
  private readonly cuts: Float64Array;
  /** By position: how likely any sum of number bits at all would be as it is on these cards. */
  private readonly chance: Float64Array;
  /** By position: undefined for those of the number. */
  private readonly tables: (Group[] | undefined)[];
  /** Of constants between the ends: what all of them may be, and what one of them may not, as it would end in itself. */
  private shared: Group[] = [];
  private readonly own: Groups[] = [];
  private ownLists: Group[][] = [];
  private sums: Pick<Group, 'low' | 'high'>[] | undefined;
  /** What was said already, by which of the sums are odd. */
  private readonly kept = new Map<number, readonly (Said | undefined)[]>();
  private readonly firstLevel: (Group[] | undefined)[];

  constructor(
    private readonly frame: Frame,
    { changing, number }: Placing,
  ) {
    const { length } = frame;
    this.length = length;
    this.covers = frame.covers;
    this.isNumber = new Uint8Array(length);
    for (const p of changing) this.isNumber[p] = 1;
    const inNumber = new Set(number);
    this.ends = [0, 1, length - 2, length - 1].map((p) => (inNumber.has(p) ? -1 : p));
    const [low, high, bad, badWithin] = [0, 1, 2, 3].map(() => new Int32Array(length)) as [
      Int32Array,
      Int32Array,
      Int32Array,
      Int32Array,
    ];
    changing.forEach((p, j) => {
      if (j < LOW_BITS) low[p] = 1 << j;
      else high[p] = 1 << (j - LOW_BITS);
    });
    this.ends.forEach((p, e) => {
      if (p >= 0) high[p]! |= 1 << (HIGH_BITS + e);
    });
    for (let p = 0; p < length; p++)
      if (frame.changes(p) && !this.isNumber[p]) {
        bad[p] = 1;
        if (!this.ends.includes(p)) badWithin[p] = 1;
      }
    this.low = new Sums(low, true);
    this.high = new Sums(high, true);
    this.bad = new Sums(bad, false);
    this.badWithin = new Sums(badWithin, false);
    this.cuts = cutBits(length, changing);
    const basis = basisOf(changing.map((p) => frame.columns[p]!));
    const chance = 2 ** -basis.length;
    this.chance = Float64Array.from(frame.columns, (column) => (reduced(column, basis) === 0n ? chance : 0));
    const constant = constantCovers(frame, this, this.cuts);
    this.firstLevel = this.ends.map((p) => (p < 0 ? undefined : this.table(p, true, constant)));
    this.share(constant);
    this.tables = Array.from({ length }, (_, p) =>
      this.isNumber[p] || this.isShared(p) ? undefined : this.table(p, false, constant),
    );
  }

  /** Whether the position is one of the number's that change. */
  isChanging(position: number): boolean {
    return this.isNumber[position] === 1;
  }

  private isShared(position: number): boolean {
    return !this.frame.changes(position) && !this.ends.includes(position);
  }

  /** Adds a cover where it is one of a position; `inside` where the position stands within it and is left out. */
  private take(to: Groups, i: number, position: number, inside: boolean, isFirst: boolean): void {
    const { first, last, kind } = this.covers;
    const [from, until, how] = [first[i]!, last[i]!, kind[i]!];
    const bad = (isFirst ? this.bad : this.badWithin).over(from, until, how);
    if (bad !== this.ownBad(position, inside, isFirst)) return;
    const low = this.low.over(from, until, how);
    this.add(
      to,
      low,
      this.high.over(from, until, how),
      position,
      inside,
      isFirst,
      coverWeight(this.cuts, from, until, how),
    );
  }

  /** How many positions of a cover change and are not of the number: the position itself, where it stands within and is no end that is expanded. */
  private ownBad(position: number, inside: boolean, isFirst: boolean): 0 | 1 {
    return inside && this.frame.changes(position) && (isFirst || !this.ends.includes(position)) ? 1 : 0;
  }

  private add(
    to: Groups,
    low: number,
    both: number,
    position: number,
    inside: boolean,
    isFirst: boolean,
    weight: number,
  ): void {
    const high = both & HIGH_MASK;
    let ends = isFirst ? 0 : both >>> HIGH_BITS;
    if (inside && this.ends.includes(position)) ends &= ~(1 << this.ends.indexOf(position));
    if (low === 0 && high === 0 && ends === 0) return;
    to.add(low, high, ends, weight);
  }

  /** All covers by which a position may be parity. */
  private table(position: number, isFirst: boolean, constant: Constant): Group[] {
    const { frame, covers: all } = this;
    const { first, last } = all;
    const groups = new Groups();
    const changes = frame.changes(position);
    if (changes)
      for (const i of frame.fitting(position))
        if (!covers(all, i, position)) this.take(groups, i, position, false, isFirst);
    const level = isFirst ? constant.first : constant.second;
    const put = (j: number, inside: boolean) =>
      this.add(groups, constant.low[j]!, constant.high[j]!, position, inside, isFirst, constant.weight[j]!);
    for (const j of level[this.ownBad(position, true, isFirst)]) {
      const i = frame.constant[j]!;
      if (first[i]! < position && position < last[i]! && covers(all, i, position)) put(j, true);
    }
    if (!changes) for (const j of level[0]) if (!covers(all, frame.constant[j]!, position)) put(j, false);
    return groups.list;
  }

  private share({ low, high, weight, second }: Constant): void {
    const groups = new Groups();
    for (let p = 0; p < this.length; p++) this.own.push(new Groups());
    const { first, last } = this.covers;
    for (const j of second[0]) {
      const i = this.frame.constant[j]!;
      const to =
        last[i] === first[i] ? [groups, this.own[first[i]!]!] : [groups, this.own[first[i]!]!, this.own[last[i]!]!];
      for (const one of to) this.add(one, low[j]!, high[j]!, -1, false, false, weight[j]!);
    }
    this.shared = groups.list;
    this.ownLists = this.own.map(({ list }) => list);
  }

  /** How many ways an end may be, at the first level: a constant, or parity over number bits and constants. */
  private endCount(end: number): bigint {
    const position = this.ends[end]!;
    const parity = this.firstLevel[end]!.reduce((sum, { count }) => sum + count, 0);
    return BigInt(parity + (this.frame.changes(position) ? 0 : 1));
  }

  /** In how many ways each position outside may be explained, in the order of the positions; 1 for those of the number. */
  counts(): bigint[] {
    const ends = this.ends.map((p, e) => (p < 0 ? 0n : this.endCount(e)));
    const sum = (groups: readonly Group[]) =>
      groups.reduce((all, { count, ends: in_ }) => all + BigInt(count) * product(ends, in_), 0n);
    const shared = sum(this.shared);
    return Array.from({ length: this.length }, (_, p) => {
      if (this.isNumber[p]) return 1n;
      if (this.isShared(p)) return 1n + shared - sum(this.ownLists[p]!);
      return (this.frame.changes(p) ? 0n : 1n) + sum(this.tables[p]!);
    });
  }

  /** What may be said of every position for a number; undefined for those of the number that change. Not to be changed: it is kept. */
  say(difference: Difference): readonly (Said | undefined)[] {
    this.sums ??= this.distinctSums();
    if (this.sums.length > MOST_SUMS) return this.saidOf(difference);
    let key = 0;
    for (const { low, high } of this.sums) key = key * 2 + odd((low & difference.low) ^ (high & difference.high));
    let said = this.kept.get(key);
    if (!said) this.kept.set(key, (said = this.saidOf(difference)));
    return said;
  }

  /** The sums of changing number bits that covers come to: all that is said of a number goes by these. */
  private distinctSums(): Pick<Group, 'low' | 'high'>[] {
    const all = [this.shared, ...this.firstLevel, ...this.tables].flatMap((groups) => groups ?? []);
    return [...new Map(all.map((group) => [`${group.low} ${group.high}`, group])).values()];
  }

  private saidOf(difference: Difference): (Said | undefined)[] {
    const ends = this.ends.map((p, e) => (p < 0 ? undefined : this.said(p, this.firstLevel[e]!, difference, [])));
    const shared = this.heard(this.shared, difference, ends);
    return Array.from({ length: this.length }, (_, p) => {
      if (this.isNumber[p]) return undefined;
      if (!this.isShared(p)) return this.said(p, this.tables[p]!, difference, ends);
      const rest = this.heard(this.ownLists[p]!, difference, ends);
      rest.same = shared.same - rest.same;
      rest.other = shared.other - rest.other;
      rest.either = shared.either - rest.either;
      rest.sameWeight = shared.sameWeight - rest.sameWeight;
      rest.otherWeight = shared.otherWeight - rest.otherWeight;
      return this.weighed(p, rest);
    });
  }

  /** The likeliest cover, in words, by which a position is as on the first card (or otherwise) for a number; undefined where none is. */
  rivalCover(position: number, { low, high }: Difference, otherwise: boolean): string | undefined {
    const { frame, covers: all } = this;
    let best: { i: number; weight: number } | undefined;
    const consider = (i: number, inside: boolean) => {
      const groups = new Groups();
      this.take(groups, i, position, inside, true);
      const [group] = groups.list;
      if (!group || odd((group.low & low) ^ (group.high & high)) !== Number(otherwise)) return;
      if (!best || group.weight > best.weight) best = { i, weight: group.weight };
    };
    if (frame.changes(position))
      for (const i of frame.fitting(position)) if (!covers(all, i, position)) consider(i, false);
    for (const i of frame.constant)
      if (all.first[i]! < position && position < all.last[i]! && covers(all, i, position)) consider(i, true);
      else if (!frame.changes(position) && !covers(all, i, position)) consider(i, false);
    if (!best) return undefined;
    const { i } = best;
    const [first, last, kind] = [all.first[i]! + 1, all.last[i]! + 1, all.kind[i]!];
    const inside = covers(all, i, position) ? ' but itself' : '';
    const span = first === last ? `bit ${first}` : `bits ${first} to ${last}`;
    return `${kind === 0 ? span : `${KINDS[kind]!} of ${span}`}${inside}`;
  }

  private said(
    position: number,
    groups: readonly Group[],
    difference: Difference,
    ends: readonly (Said | undefined)[],
  ): Said {
    return this.weighed(position, this.heard(groups, difference, ends));
  }

  /** With the constant that it may be, and how likely either is at this position; what is heard is made that. */
  private weighed(position: number, heard: Said): Said {
    const share = parityShare(position, this.length);
    const isConstant = !this.frame.changes(position);
    // Of a sum that is no member's nothing is known of other cards. It is in no count, but makes the rest less likely.
    const any = (share * ANY_SUM * this.chance[position]!) / 2;
    const named = share * (1 - ANY_SUM);
    const { same, other, either, sameWeight, otherWeight } = heard;
    heard.same = same + (isConstant ? 1 : 0);
    heard.sameWeight = (same + either > 0 ? Math.max(0, named * sameWeight) : 0) + (isConstant ? 1 - share : 0) + any;
    heard.otherWeight = (other + either > 0 ? Math.max(0, named * otherWeight) : 0) + any;
    return heard;
  }

  private heard(groups: readonly Group[], { low, high }: Difference, ends: readonly (Said | undefined)[]): Said {
    const said: Said = { same: 0, other: 0, either: 0, sameWeight: 0, otherWeight: 0 };
    for (const group of groups) {
      let turned = odd((group.low & low) ^ (group.high & high));
      let [lean, isEither] = [1, false];
      for (let left = group.ends, e = 0; left !== 0; left >>>= 1, e++) {
        if (!(left & 1)) continue;
        const { same, other, either, sameWeight, otherWeight } = ends[e]!;
        if (either > 0 || (same > 0 && other > 0)) {
          isEither = true;
          lean *= (sameWeight - otherWeight) / (sameWeight + otherWeight);
        } else if (other > 0) turned ^= 1;
        else if (same === 0) {
          // An end that cannot be explained is in no cover.
          lean = Number.NaN;
          break;
        }
      }
      if (Number.isNaN(lean)) continue;
      if (isEither) said.either += group.count;
      else if (turned) said.other += group.count;
      else said.same += group.count;
      const [likelier, rest] = [(group.weight * (1 + lean)) / 2, (group.weight * (1 - lean)) / 2];
      said.sameWeight += turned ? rest : likelier;
      said.otherWeight += turned ? likelier : rest;
    }
    return said;
  }
}

/** Of the ends that are in a cover, in how many ways they may be. */
function product(ends: readonly bigint[], which: number): bigint {
  let all = 1n;
  for (let left = which, e = 0; left !== 0; left >>>= 1, e++) if (left & 1) all *= ends[e]!;
  return all;
}
