/**
 * Checks that may stand anywhere in a read: exclusive ors and sums over nibbles and bytes, the longitudinal check of 5-bit characters,
 * and CRCs as published, over any run of bits. All of them are looked for at once: the register runs along the read from every beginning, and
 * what it holds after each bit is looked up among what stands in the read.
 */
import type { Bits } from '../../bits/index.ts';
import { PUBLISHED_CRCS, type PublishedCrc } from '../../check/index.ts';
import type { CheckMethod } from '../../format/index.ts';
import { type CheckAt, type Checks, holds, mirrored, withOddParity } from './checks.ts';

/** What stands in the reads that are gone along, by where it begins; and where two of them differ in what way. */
interface Windows {
  values: Int32Array[];
  /** By the difference of the first two: the first place of it; and the next place of the same after each. */
  heads: Int32Array;
  next: Int32Array;
}

/** A method of a group, and what it adds to what all of the group have. */
interface Added {
  method: CheckMethod;
  added: number;
}

/** One format in so many has such a check, and one method of so many is it: common practice, no source. */
const CHECK_BITS = 6;
const METHOD_BITS = { xor: 3, lrc5: 5, crc: 5, sum: 4, mod10: 6 } as const;

/** So many reads are gone along at once; what agrees with them is held against the others. */
export const AT_ONCE = 3;

class Search {
  readonly found: CheckAt[] = [];
  areAll = true;
  private readonly length: number;
  /** The reads that are gone along, a bit a number. */
  readonly reads: Uint8Array[];
  private readonly windows = new Map<number, Windows>();

  constructor(
    private readonly cards: readonly Bits[],
    private readonly isWanted: (first: number, last: number) => boolean,
    private readonly inverted: boolean,
    private readonly most: number,
  ) {
    this.length = cards[0]!.length;
    this.reads = cards
      .slice(0, AT_ONCE)
      .map((bits) => Uint8Array.from({ length: this.length }, (_, p) => bits.at(p + 1) ^ (inverted ? 1 : 0)));
  }

  windowsOf(width: number): Windows {
    const known = this.windows.get(width);
    if (known) return known;
    const count = Math.max(0, this.length - width + 1);
    const values = this.reads.map((read) => {
      const own = new Int32Array(count);
      for (let p = 0, value = 0; p < this.length; p++) {
        value = ((value << 1) | read[p]!) & (2 ** width - 1);
        if (p >= width - 1) own[p - width + 1] = value;
      }
      return own;
    });
    const [one, other = one] = values as [Int32Array, Int32Array?];
    const heads = new Int32Array(2 ** width).fill(-1);
    const next = new Int32Array(count);
    for (let p = count - 1; p >= 0; p--) {
      const difference = one[p]! ^ other[p]!;
      next[p] = heads[difference]!;
      heads[difference] = p;
    }
    const made = { values, heads, next };
    this.windows.set(width, made);
    return made;
  }

  /**
   * Takes a check over `first` to `last`, wherever it stands, from what it has over each of the reads, but for what all variants of
   * it add. The difference of two reads is the same for every variant, so places are looked up by that.
   */
  take(
    windows: Windows,
    width: number,
    first: number,
    last: number,
    own: Int32Array,
    variants: readonly Added[],
  ): void {
    // Before anything else: what never changes among the reads is the same as very many places.
    if (!this.isWanted(first, last)) return;
    const { values, heads, next } = windows;
    for (let at = heads[own[0]! ^ (own[1] ?? own[0]!)]!; at >= 0; at = next[at]!) {
      if (at <= last && at + width > first) continue;
      const turn = values[0]![at]! ^ own[0]!;
      let agrees = true;
      for (let c = 1; c < own.length && agrees; c++) agrees = (values[c]![at]! ^ own[c]!) === turn;
      if (!agrees) continue;
      for (const variant of variants) if (variant.added === turn) this.keep(variant.method, width, at, first, last);
    }
  }

  private keep(method: CheckMethod, width: number, at: number, first: number, last: number): void {
    const bits = this.bitsOf(method, width, at, first, last);
    const one = { method, width, at, first, last, inverted: this.inverted, bits };
    if (!this.cards.every((read, i) => i < AT_ONCE || holds(one, read))) return;
    if (this.found.length < this.most) this.found.push(one);
    else this.areAll = false;
  }

  private bitsOf({ kind }: CheckMethod, width: number, at: number, first: number, last: number): number {
    const any = Math.log2(this.length);
    const place = at + width === this.length ? 1 : any;
    const isRest = (first === 0 && last === at - 1) || (first === at + width && last === this.length - 1);
    return CHECK_BITS + METHOD_BITS[kind] + place + (isRest ? 1 : 2 * any);
  }
}

/**
 * Every check of the reads (distinct, of one length), over the runs that are wanted; at most `most`. Grows with the square of the
 * length.
 */
export function checksAmong(
  reads: readonly Bits[],
  { isWanted, inverted, most }: { isWanted: (first: number, last: number) => boolean; inverted: boolean; most: number },
): Checks {
  const search = new Search(reads, isWanted, inverted, most);
  const { length } = reads[0]!;
  inGroups(search, length, 4, { kind: 'xor', width: 4 });
  inGroups(search, length, 8, { kind: 'xor', width: 8 });
  inGroups(search, length, 5, { kind: 'lrc5' });
  for (const width of [4, 8]) inSums(search, length, width);
  for (const group of GROUPS) {
    if (!search.areAll) break;
    if (group[0]!.reflected) reflected(search, length, group);
    else plain(search, length, group);
  }
  return { found: search.found, areAll: search.areAll };
}

/** As `checksAmong`, of additive sums alone. */
export function sumsAmong(
  reads: readonly Bits[],
  { isWanted, inverted, most }: Parameters<typeof checksAmong>[1],
): readonly CheckAt[] {
  const search = new Search(reads, isWanted, inverted, most);
  for (const width of [4, 8]) inSums(search, reads[0]!.length, width);
  return search.found;
}

/** Exclusive ors over groups of bits. Of a longitudinal check the parity bit is odd over its own character. */
function inGroups(search: Search, length: number, width: number, method: CheckMethod): void {
  if (2 * width > length) return;
  const windows = search.windowsOf(width);
  const { values } = windows;
  const sums = new Int32Array(values.length);
  const said = new Int32Array(values.length);
  const variants = [{ method, added: 0 }];
  for (let first = 0; first + width <= length && search.areAll; first++) {
    sums.fill(0);
    for (let next = first; next + width <= length; next += width) {
      for (let c = 0; c < sums.length; c++) {
        sums[c]! ^= values[c]![next]!;
        said[c] = method.kind === 'lrc5' ? withOddParity(sums[c]! >> 1) : sums[c]!;
      }
      search.take(windows, width, first, next + width - 1, said, variants);
    }
  }
}

/** Sums of groups of bits, of which as many of the lowest are kept, and their two's complements. */
function inSums(search: Search, length: number, width: number): void {
  if (2 * width > length) return;
  const windows = search.windowsOf(width);
  const { values } = windows;
  const mask = 2 ** width - 1;
  const sums = new Int32Array(values.length);
  const complements = new Int32Array(values.length);
  const plain = [{ method: { kind: 'sum', width, negated: false } as const, added: 0 }];
  const negated = [{ method: { kind: 'sum', width, negated: true } as const, added: 0 }];
  for (let first = 0; first + width <= length && search.areAll; first++) {
    sums.fill(0);
    for (let next = first; next + width <= length; next += width) {
      for (let c = 0; c < sums.length; c++) {
        sums[c] = (sums[c]! + values[c]![next]!) & mask;
        complements[c] = -sums[c]! & mask;
      }
      // The sum of one group is its exclusive or, too.
      if (next > first) search.take(windows, width, first, next + width - 1, sums, plain);
      search.take(windows, width, first, next + width - 1, complements, negated);
    }
  }
}

/** CRCs by polynomial and direction: a preset only adds what it makes of as many zeros. */
const GROUPS: readonly (readonly PublishedCrc[])[] = [
  ...PUBLISHED_CRCS.reduce((groups, one) => {
    const key = `${one.width} ${one.poly} ${one.reflected}`;
    return groups.set(key, [...(groups.get(key) ?? []), one]);
  }, new Map<string, PublishedCrc[]>()).values(),
];

/** By the number of steps: what preset and final exclusive or of each variant add. */
function addedBy(group: readonly PublishedCrc[], steps: number, step: (register: number) => number): Added[][] {
  const by = Array.from({ length: steps + 1 }, (): Added[] => []);
  for (const one of group) {
    const method = methodOf(one);
    let register = one.reflected ? mirrored(one.init, one.width) : one.init;
    for (let k = 0; k <= steps; k++) {
      by[k]!.push({ method, added: register ^ one.xorOut });
      register = step(register);
    }
  }
  return by;
}

function plain(search: Search, length: number, group: readonly PublishedCrc[]): void {
  const { width, poly } = group[0]!;
  if (2 * width > length) return;
  const [top, mask] = [width - 1, 2 ** width - 1];
  const next = (register: number, bit: number) => ((register << 1) & mask) ^ (((register >> top) ^ bit) & 1 ? poly : 0);
  const variants = addedBy(group, length, (register) => next(register, 0));
  const windows = search.windowsOf(width);
  const { reads } = search;
  const registers = new Int32Array(reads.length);
  for (let first = 0; first + width <= length && search.areAll; first++) {
    registers.fill(0);
    for (let last = first; last < length; last++) {
      for (let c = 0; c < reads.length; c++) registers[c] = next(registers[c]!, reads[c]![last]!);
      const count = last - first + 1;
      if (count >= width) search.take(windows, width, first, last, registers, variants[count]!);
    }
  }
}

function reflected(search: Search, length: number, group: readonly PublishedCrc[]): void {
  const { width, poly } = group[0]!;
  if (2 * width > length) return;
  const own = mirrored(poly, width);
  const shifted = (register: number) => {
    let next = register;
    for (let k = 0; k < 8; k++) next = next & 1 ? (next >> 1) ^ own : next >> 1;
    return next;
  };
  const variants = addedBy(group, length >> 3, shifted);
  const windows = search.windowsOf(width);
  const bytes = search.windowsOf(8).values;
  const registers = new Int32Array(bytes.length);
  for (let first = 0; first + width <= length && search.areAll; first++) {
    registers.fill(0);
    for (let next = first, count = 1; next + 8 <= length; next += 8, count++) {
      for (let c = 0; c < bytes.length; c++) registers[c] = shifted(registers[c]! ^ bytes[c]![next]!);
      if (count * 8 >= width) search.take(windows, width, first, next + 7, registers, variants[count]!);
    }
  }
}

const hex = (value: number): string => value.toString(16).toUpperCase();

const methodOf = ({ width, poly, init, reflected: is, xorOut }: PublishedCrc): CheckMethod => ({
  kind: 'crc',
  width,
  poly: hex(poly),
  init: hex(init),
  reflectIn: is,
  reflectOut: is,
  xorOut: hex(xorOut),
});
