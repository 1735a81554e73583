/**
 * What is likelier before a card is read: shorter descriptions weigh more. Costs in bits, from how the formats of the library are
 * made: a number in one piece as sent, ends of a read more often parity than bits within it, covers that begin and end where the
 * read or the number does.
 */
import type { CoverKind } from './covers.ts';
import type { NumberAt } from './numberPlaces.ts';

const ORDER_BITS = { 'as sent': 0, 'bits reversed': 5, 'bytes reversed': 6 } as const;
const INVERTED_BITS = 6;
const TWO_PIECES_BITS = 10;

export const placeBits = ({ order, inverted, pieces }: NumberAt): number =>
  ORDER_BITS[order] + (inverted ? INVERTED_BITS : 0) + (pieces === 2 ? TWO_PIECES_BITS : 0);

/** How likely a bit is parity at all, by how far it is from the nearer end of the read. */
export function parityShare(position: number, length: number): number {
  const fromEnd = Math.min(position, length - 1 - position);
  return fromEnd === 0 ? 0.6 : fromEnd === 1 ? 0.2 : 0.03;
}

/** The part of parity bits that cover what no member of the family covers. */
export const ANY_SUM = 0.01;

/** every second, every third, two of three: how much rarer than whole intervals. */
const KIND_BITS = [1, 5, 7, 4, 4] as const;

/** Bits for where a cover begins or ends: few where the read, its middle or the number does. */
export function cutBits(length: number, number: readonly number[]): Float64Array {
  const natural = new Map<number, number>();
  const put = (at: number, bits: number) => {
    if (at >= 0 && at < length) natural.set(at, Math.min(bits, natural.get(at) ?? Number.POSITIVE_INFINITY));
  };
  const middle = length / 2;
  for (const at of [0, length - 1]) put(at, 2.5);
  for (const at of [1, length - 2]) put(at, 2);
  for (const at of [2, length - 3]) put(at, 3.5);
  for (const at of [Math.floor(middle) - 1, Math.floor(middle), Math.ceil(middle), Math.ceil(middle) - 1]) put(at, 3);
  for (const at of [Math.min(...number), Math.max(...number)]) put(at, 3.5);
  const rest = 2.5 + Math.log2(length);
  return Float64Array.from({ length }, (_, at) => natural.get(at) ?? rest);
}

export const coverWeight = (cuts: Float64Array, first: number, last: number, kind: number): number =>
  2 ** -(cuts[first]! + cuts[last]! + KIND_BITS[kind as CoverKind]);

const READING_BITS = {
  'as printed': 0,
  'digits in BCD or hex': 7,
  'facility and number joined in one decimal': 5,
  'a constant added': 8,
  'the last digits only': 8,
  'a part of the UID': 4,
} as const;
export const readingBits = (kind: keyof typeof READING_BITS): number => READING_BITS[kind];
/** A constant by how long it is. */
export const addedBits = (add: bigint): number => (add < 0n ? -add : add).toString(2).length;
