/** Searches for the less usual ways of printing: a constant added to the number, or only its last digits. */
import type { Bits } from '../bits/index.ts';
import type { NumberPlace } from './cards/places.ts';

const WIDTHS = [16, 19, 20, 24, 32];

/**
 * Constants c (not 0) such that the print plus c stands at one and the same place in every read. Constants that only
 * set bits which no print reaches are left out: they say the same as the print itself, with the facility code above it.
 */
export function addedConstants(reads: readonly Bits[], numbers: readonly bigint[]): bigint[] {
  if (new Set(numbers).size < 3) return [];
  const values = reads.map((bits) => bits.toBigInt());
  const length = reads[0]!.length;
  const needed = Math.max(...numbers.map((n) => n.toString(2).length));
  const reached = (1n << BigInt(needed)) - 1n;
  const found = new Set<bigint>();
  for (let drop = 0; drop < length - 1; drop++) {
    for (const width of new Set([needed, needed + 1, ...WIDTHS])) {
      if (width > length - drop || width < needed) continue;
      const mask = (1n << BigInt(width)) - 1n;
      const at = (i: number) => (values[i]! >> BigInt(drop)) & mask;
      const add = at(0) - numbers[0]!;
      if (add === 0n || (add > 0n && (add & reached) === 0n)) continue;
      if (numbers.every((number, i) => at(i) - number === add)) found.add(add);
    }
  }
  return [...found].sort((a, b) => (abs(a) < abs(b) ? -1 : 1)).slice(0, 4);
}

const abs = (value: bigint): bigint => (value < 0n ? -value : value);

/** A place of a longer number whose last decimal digits are printed, all prints being of one length. */
export function lastDigits(
  reads: readonly Bits[],
  numbers: readonly bigint[],
  texts: readonly string[],
): NumberPlace | undefined {
  const digits = texts[0]!.length;
  if (digits < 4 || texts.some((text) => !/^\d+$/.test(text) || text.length !== digits)) return undefined;
  const modulus = 10n ** BigInt(digits);
  const values = reads.map((bits) => bits.toBigInt());
  const length = reads[0]!.length;
  for (let drop = 0; drop < length; drop++) {
    for (const width of [24, 26, 32, 35, 40, 48, 56, 64]) {
      if (width > length - drop) continue;
      const mask = (1n << BigInt(width)) - 1n;
      if (!values.every((value, i) => ((value >> BigInt(drop)) & mask) % modulus === numbers[i])) continue;
      const positions = Array.from({ length: width }, (_, k) => length - drop - k);
      return { order: 'as sent', inverted: false, positions, bits: width, zeros: [], misses: [] };
    }
  }
  return undefined;
}
