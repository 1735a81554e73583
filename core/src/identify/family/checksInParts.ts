import type { Bits } from '../../bits/index.ts';
import { AT_ONCE, checksAmong } from './checkSearch.ts';
import { type CheckAt, type Checks, holds } from './checks.ts';

/**
 * Checks in parts of a set of reads, as often as is asked: they are looked for among three of the reads at a time, and held against the
 * others of the part. Over runs that change among those three.
 */
export class ChecksInParts {
  private readonly known = new Map<string, Checks>();
  private readonly threes: string[][];

  constructor(
    reads: readonly Bits[],
    private readonly most: number,
  ) {
    const all = [...new Set(reads.map((bits) => bits.toBinary()))];
    const last = all.length - 1;
    // Whichever one read is wrong, some of these have it not.
    this.threes = [
      [0, 1, 2],
      [last - 2, last - 1, last],
      [0, 1, last],
      [0, last - 1, last],
    ]
      .filter((three) => new Set(three).size === 3 && three.every((i) => i >= 0 && i <= last))
      .map((three) => three.map((i) => all[i]!));
  }

  among(reads: readonly Bits[], inverted: boolean): Checks {
    const texts = new Set(reads.map((bits) => bits.toBinary()));
    const three = this.threes.find((some) => some.every((read) => texts.has(read))) ?? [...texts].slice(0, AT_ONCE);
    const { found, areAll } = this.ofThree(three, reads, inverted);
    return { areAll, found: found.filter((check) => reads.every((read) => holds(check, read))) };
  }

  /** Those that all of the reads have but one, the least unusual first. */
  nearly(reads: readonly Bits[], inverted: boolean): CheckAt[] {
    const hasOneMiss = (check: CheckAt) => reads.filter((read) => !holds(check, read)).length === 1;
    for (const three of this.threes) {
      const found = this.ofThree(three, reads, inverted).found.filter(hasOneMiss);
      if (found.length > 0) return found.sort((a, b) => a.bits - b.bits);
    }
    return [];
  }

  private ofThree(three: readonly string[], reads: readonly Bits[], inverted: boolean): Checks {
    const key = `${inverted} ${three.join()}`;
    const known = this.known.get(key);
    if (known) return known;
    const own = three.map((text) => reads.find((bits) => bits.toBinary() === text)!);
    const before = [0];
    for (let p = 1; p <= own[0]!.length; p++)
      before.push(before.at(-1)! + (own.some((bits) => bits.at(p) !== own[0]!.at(p)) ? 1 : 0));
    const isWanted = (first: number, last: number) => before[last + 1]! > before[first]!;
    const found = checksAmong(own, { isWanted, inverted, most: this.most });
    this.known.set(key, found);
    return found;
  }
}
