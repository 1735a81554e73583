/**
 * Several formats agree with one card: its read is as they have it, and each gives the number that is printed on it. Which
 * other card tells them apart? One is a parting card if, whichever of the formats is the right one, its read and its print
 * agree with that one alone. The other values of the card, a facility code above all, are taken to be the same.
 */
import { Bits } from '../bits/index.ts';
import { decode, encode } from '../codec/index.ts';
import { RawBitsError } from '../failure/index.ts';
import type { Format } from '../format/index.ts';
import { agreementOf } from './agreement.ts';

/** A format that agrees, with the values that it gives to the card at hand. */
export interface Agreeing {
  format: Format;
  /** Decimal, by label; with a number. */
  values: Readonly<Record<string, string>>;
}

export interface PartingCard {
  /** The number printed on it. */
  printed: string;
  /** How many of the formats it leaves at most, whichever is right: 1 parts them all. */
  leaves: number;
}

/** Numbers up to so many bits are looked through. */
const MOST_BITS = 64;

/** The number printed on the card: it is what the formats agree on. */
const numberOf = ({ values }: Agreeing): bigint => BigInt(values.number ?? '0');

/** A read as another length takes it, right-justified; undefined where it has more bits than that. */
function atLength(bits: Bits, length: number): Bits | undefined {
  const binary = bits.toBinary();
  const rest = binary.slice(0, -length).includes('1');
  return rest ? undefined : Bits.fromBinary(binary.slice(-length).padStart(length, '0'));
}

/** The read of a card of this number, if the format can have one. */
function readOf({ format, values }: Agreeing, number: bigint): Bits | undefined {
  try {
    return encode(format, { ...values, number: number.toString() });
  } catch (error) {
    if (error instanceof RawBitsError) return undefined;
    throw error;
  }
}

/** How many of the formats agree with a card of this number, at most, whichever of them is right; undefined where none can have it. */
function left(formats: readonly Agreeing[], number: bigint): number | undefined {
  const print = [{ value: number, as: 'decimal' as const }];
  let most: number | undefined;
  for (const right of formats) {
    const read = readOf(right, number);
    if (!read) continue;
    const agree = formats.filter(({ format }) => {
      if (format === right.format) return true;
      const bits = atLength(read, format.bits);
      if (!bits) return false;
      const { fit, values } = decode(bits, format);
      return fit === 'full' && agreementOf(values, print, format) !== undefined;
    });
    most = Math.max(most ?? 0, agree.length);
  }
  return most;
}

/**
 * The card that parts formats which agree with the one at hand: the nearest number that leaves the fewest of them. Looks at
 * the numbers that differ from the one at hand in one bit, and at the powers of two around them: at most 256, whatever the
 * length. Undefined where fewer than two agree, or where none of these leaves fewer.
 */
export function partingCard(formats: readonly Agreeing[]): PartingCard | undefined {
  if (formats.length < 2) return undefined;
  const now = numberOf(formats[0]!);
  const numbers = new Set<bigint>();
  for (let bit = 0; bit < MOST_BITS; bit++) {
    const power = 1n << BigInt(bit);
    for (const number of [now ^ power, power, power - 1n, now + power]) if (number !== now) numbers.add(number);
  }
  const distance = (number: bigint) => (number > now ? number - now : now - number);
  const byDistance = [...numbers].sort((a, b) => (distance(a) < distance(b) ? -1 : 1));
  let best: PartingCard | undefined;
  for (const number of byDistance) {
    const leaves = left(formats, number);
    if (leaves === undefined || leaves >= (best?.leaves ?? formats.length)) continue;
    best = { printed: number.toString(), leaves };
    if (leaves === 1) return best;
  }
  return best;
}
