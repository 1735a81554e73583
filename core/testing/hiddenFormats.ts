/**
 * Hidden formats of the family that Identify is made for, and cards from them, from a seed: fields of any place and
 * order, one or two facility codes, parity of the kinds met in the trade, random exclusive ors, CRC. Invented.
 */
import { Bits } from '../src/bits/index.ts';
import { seeded } from '../src/identify/seeded.ts';

export type Random = () => number;

export const randomFrom: (seed: number) => Random = seeded;

export interface HiddenFormat {
  length: number;
  numberBits: number;
  facilities: bigint[];
  /** What the fields' arrangement is: one run each as in the trade, or bits in any order. */
  kind: 'runs' | 'scattered';
  /** Whether it is of the family that settled predictions are proven within: runs, and parity over what the trade covers or a CRC as published. */
  isOfFamily: boolean;
  bitsOf(number: bigint, facility: bigint): Bits;
}

const below = (random: Random, n: number): number => Math.floor(random() * n);

function shuffled(random: Random, list: number[]): number[] {
  const out = [...list];
  for (let i = out.length - 1; i > 0; i--) {
    const j = below(random, i + 1);
    [out[i], out[j]] = [out[j]!, out[i]!];
  }
  return out;
}

/** A sum that a position carries: of which other positions, and a constant; in an order in which they can be filled. */
interface Sum {
  at: number;
  of: number[];
  plus: number;
}

export function hiddenFormat(random: Random, options: { facilities?: number; scattered?: boolean } = {}): HiddenFormat {
  const length = 24 + below(random, random() < 0.6 ? 41 : 177);
  const scattered = options.scattered ?? random() < 0.3;
  const { sums, isUsual } = parityPlaces(random, length);
  const free = Array.from({ length }, (_, i) => i + 1).filter((p) => !sums.some((s) => s.at === p));
  const numberBits = Math.min(free.length - 4, 8 + below(random, 25));
  const facilityBits = Math.min(free.length - numberBits, 4 + below(random, 13));
  const order = scattered ? shuffled(random, free) : free;
  const facilityFirst = random() < 0.8;
  const gap = below(random, free.length - numberBits - facilityBits + 1);
  const [facilityAt, numberAt] = facilityFirst
    ? [order.slice(gap, gap + facilityBits), order.slice(gap + facilityBits, gap + facilityBits + numberBits)]
    : [order.slice(gap + numberBits, gap + numberBits + facilityBits), order.slice(gap, gap + numberBits)];
  if (!scattered && random() < 0.15) numberAt.reverse();
  const rest = free.filter((p) => !numberAt.includes(p) && !facilityAt.includes(p));
  const fixed = new Map(rest.map((p) => [p, below(random, 2)] as const));
  const invert = random() < 0.1;
  const bitsOf = (number: bigint, facility: bigint): Bits => {
    const bits = new Array<number>(length + 1).fill(0);
    for (const [p, bit] of fixed) bits[p] = bit;
    numberAt.forEach((p, i) => {
      bits[p] = Number((number >> BigInt(numberBits - 1 - i)) & 1n);
    });
    facilityAt.forEach((p, i) => {
      bits[p] = Number((facility >> BigInt(facilityBits - 1 - i)) & 1n);
    });
    for (const { at, of, plus } of sums) bits[at] = of.reduce((sum, p) => sum ^ bits[p]!, plus);
    return Bits.build(length, (p) => bits[p]! ^ (invert ? 1 : 0));
  };
  const count = options.facilities ?? (random() < 0.2 ? 2 : 1);
  const codes = new Set<bigint>();
  while (codes.size < count) codes.add(BigInt(below(random, 2 ** facilityBits)));
  return {
    length,
    numberBits,
    facilities: [...codes],
    kind: scattered ? 'scattered' : 'runs',
    isOfFamily: isUsual && !scattered,
    bitsOf,
  };
}

const range = (from: number, to: number, by = 1): number[] => {
  const list: number[] = [];
  for (let p = from; p <= to; p += by) list.push(p);
  return list;
};

/** Parity as in the trade (halves, all, two of three), random sums, or a CRC at the end. */
function parityPlaces(random: Random, length: number): { sums: Sum[]; isUsual: boolean } {
  const kind = below(random, 6);
  return { sums: sumsOfKind(kind, random, length), isUsual: kind !== 4 };
}

function sumsOfKind(kind: number, random: Random, length: number): Sum[] {
  const half = Math.floor(length / 2);
  const sense = () => below(random, 2);
  if (kind === 0) return [];
  if (kind === 1)
    return [
      { at: 1, of: range(2, half), plus: sense() },
      { at: length, of: range(half + 1, length - 1), plus: sense() },
    ];
  if (kind === 2) {
    const thirds = (from: number, until: number) => [...range(from, until, 3), ...range(from + 1, until, 3)];
    return [
      { at: 2, of: thirds(3, length - 1), plus: sense() },
      { at: length, of: thirds(2, length - 2).filter((p) => p !== length), plus: sense() },
      { at: 1, of: range(2, length), plus: sense() },
    ];
  }
  if (kind === 3) return [{ at: length, of: range(1, length - 1), plus: sense() }];
  if (kind === 4) {
    const places = shuffled(random, range(1, length)).slice(0, 1 + below(random, 4));
    return places.map((at, i) => ({
      at,
      of: range(1, length).filter((p) => !places.slice(i).includes(p) && p !== at && random() < 0.5),
      plus: sense(),
    }));
  }
  return crcSums(length, 8, 0x1d, 0xc7);
}

/** A CRC over all bits before it, as one sum a bit: it is linear, so each bit's part is found by putting one 1 in. */
function crcSums(length: number, width: number, poly: number, init: number): Sum[] {
  const data = length - width;
  const run = (bits: (i: number) => number): number => {
    let register = init;
    for (let i = 0; i < data; i++) {
      const out = (register >> (width - 1)) ^ bits(i);
      register = ((register << 1) & (2 ** width - 1)) ^ (out & 1 ? poly : 0);
    }
    return register;
  };
  const none = run(() => 0);
  const effects = Array.from({ length: data }, (_, k) => run((i) => (i === k ? 1 : 0)) ^ none);
  return Array.from({ length: width }, (_, b) => ({
    at: data + 1 + b,
    of: range(1, data).filter((p) => (effects[p - 1]! >> (width - 1 - b)) & 1),
    plus: (none >> (width - 1 - b)) & 1,
  }));
}

/** Numbers of a box: near one another, or anywhere. */
export function boxNumbers(random: Random, format: HiddenFormat, count: number): bigint[] {
  const all = 2 ** Math.min(format.numberBits, 30);
  const near = random() < 0.5;
  const start = below(random, all);
  const numbers = new Set<number>();
  const reach = near ? Math.min(all, Math.max(count * 4, 64)) : all;
  for (let i = 0; numbers.size < Math.min(count, reach) && i < count * 50; i++)
    numbers.add(near ? (start + below(random, reach)) % all : below(random, all));
  return [...numbers].map(BigInt);
}
