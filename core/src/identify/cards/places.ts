/**
 * Places: where a number stands in all reads at once, in any order of bits or bytes and inverted. Every specimen is
 * compared at once, column by column; a place at which a few specimens disagree is kept with their indices.
 */
import { type Column, fullColumn, indicesOf, isZero, ones } from './columns.ts';

export type PlaceOrder = 'as sent' | 'bits reversed' | 'bytes reversed';

export interface NumberPlace {
  order: PlaceOrder;
  inverted: boolean;
  /** 1-based positions of the number bits, the least significant first. */
  positions: number[];
  /** How many of the number's own bits are there; fewer than it has where the read holds only its low bits. */
  bits: number;
  /** Zeros beyond its most significant end: positions that may belong to it, nearest first. */
  zeros: number[];
  /** Indices of the specimens that do not have their number here. */
  misses: number[];
}

interface Request {
  reads: readonly Column[];
  numbers: readonly Column[];
  count: number;
  /** How many specimens may disagree. */
  misses: number;
}

const ORDERS: PlaceOrder[] = ['as sent', 'bits reversed', 'bytes reversed'];

/** The position (from 0) of number bit k when bit 0 stands at `origin`. */
export function positionOf(order: PlaceOrder, origin: number, k: number): number {
  if (order === 'as sent') return origin - k;
  if (order === 'bits reversed') return origin + k;
  return origin + (k >>> 3) * 8 - (k & 7);
}

/** All places of the numbers, those without misses and in plain order first. */
export function placesOf(request: Request): NumberPlace[] {
  const { reads, numbers } = request;
  const found: NumberPlace[] = [];
  const bytes = numbers.length > 8;
  for (const inverted of [false, true]) {
    for (const order of ORDERS) {
      if (order === 'bytes reversed' && !bytes) continue;
      for (let origin = 0; origin < reads.length; origin++) {
        const place = placeAt(request, order, inverted, origin);
        if (place) found.push(place);
      }
    }
  }
  const rank = (p: NumberPlace) => (p.inverted ? 3 : 0) + ORDERS.indexOf(p.order);
  return found.sort((a, b) => a.misses.length - b.misses.length || b.bits - a.bits || rank(a) - rank(b));
}

/** At least this many of a number's low bits must be there to take a read for a cut one. */
const LEAST_CUT = 16;

function placeAt(request: Request, order: PlaceOrder, inverted: boolean, origin: number): NumberPlace | undefined {
  const { reads, numbers, count, misses } = request;
  const words = reads[0]!.length;
  const wrong = new Uint32Array(words);
  const full = fullColumn(count);
  const positions: number[] = [];
  let k = 0;
  for (; k < numbers.length; k++) {
    const p = positionOf(order, origin, k);
    const column = reads[p];
    if (column === undefined) break;
    const number = numbers[k]!;
    let disagree = 0;
    for (let w = 0; w < words; w++) {
      const next = wrong[w]! | (column[w]! ^ number[w]! ^ (inverted ? full[w]! : 0));
      if (next !== wrong[w]) disagree = 1;
    }
    if (disagree) {
      const before = wrong.slice();
      for (let w = 0; w < words; w++) wrong[w]! |= column[w]! ^ number[w]! ^ (inverted ? full[w]! : 0);
      if (ones(wrong) > misses) {
        wrong.set(before);
        break;
      }
    }
    positions.push(p + 1);
  }
  if (k < numbers.length && (k < LEAST_CUT || order === 'bytes reversed')) return undefined;
  const zeros: number[] = [];
  for (let z = k; k === numbers.length; z++) {
    const p = positionOf(order, origin, z);
    const column = reads[p];
    if (column === undefined || !zeroColumn(column, inverted, full)) break;
    zeros.push(p + 1);
  }
  return { order, inverted, positions, bits: k, zeros, misses: indicesOf(wrong) };
}

const zeroColumn = (column: Column, inverted: boolean, full: Column): boolean =>
  inverted ? column.every((word, w) => word === full[w]) : isZero(column);

/** The value that stands at a place in one read, of the place's own bits. */
export function valueAt(place: NumberPlace, bits: { at(position: number): 0 | 1 }): bigint {
  let value = 0n;
  for (let k = place.positions.length - 1; k >= 0; k--)
    value = (value << 1n) | BigInt(bits.at(place.positions[k]!) ^ (place.inverted ? 1 : 0));
  return value;
}
