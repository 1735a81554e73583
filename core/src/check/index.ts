/**
 * Check: parity, exclusive-or sums, CRCs and the longitudinal check (LRC) of character strings.
 * CRC parameters are named as in the common catalogue model: width, polynomial, initial value, reflected input and
 * output, final exclusive-or.
 */
import { Bits } from '../bits/index.ts';
import { fail } from '../failure/index.ts';

export { PUBLISHED_CRCS, type PublishedCrc } from './published.ts';

export type Sense = 'even' | 'odd';

/** The parity bit that makes the number of 1s among the covered bits and itself even or odd. */
export function parityBit(onesCovered: number, sense: Sense): 0 | 1 {
  return ((onesCovered & 1) ^ (sense === 'odd' ? 1 : 0)) as 0 | 1;
}

export interface CrcParameters {
  /** 1 to 64 bits. */
  width: number;
  /** Normal form, most significant bit first, without the leading 1. */
  poly: bigint;
  init: bigint;
  /** Each byte of the input goes in least significant bit first. */
  reflectIn: boolean;
  /** The register comes out least significant bit first. */
  reflectOut: boolean;
  xorOut: bigint;
}

function reflect(value: bigint, width: number): bigint {
  let out = 0n;
  for (let i = 0; i < width; i++) out |= ((value >> BigInt(i)) & 1n) << BigInt(width - 1 - i);
  return out;
}

/** Runs the bits that `bitAt` gives through the CRC register. */
function runCrc(count: number, bitAt: (index: number) => number, parameters: CrcParameters): bigint {
  const { width, poly, init, reflectOut, xorOut } = parameters;
  const w = BigInt(width);
  const mask = (1n << w) - 1n;
  const top = 1n << (w - 1n);
  let register = init & mask;
  for (let i = 0; i < count; i++) {
    const out = ((register & top) !== 0n ? 1 : 0) ^ bitAt(i);
    register = (register << 1n) & mask;
    if (out) register ^= poly & mask;
  }
  return (reflectOut ? reflect(register, width) : register) ^ (xorOut & mask);
}

/**
 * CRC of a string of bits, most significant bit first. With `reflectIn` every whole byte goes in reversed, so the
 * input must be whole bytes: throws `crc-bytes`. Source: the parameter model that CRC catalogues share.
 */
export function crc(bits: Bits, parameters: CrcParameters): bigint {
  const { reflectIn } = parameters;
  if (reflectIn && bits.length % 8 !== 0)
    fail('crc-bytes', `A reflected CRC needs whole bytes; ${bits.length} bits are not.`);
  return runCrc(bits.length, (i) => bits.at((reflectIn ? i ^ 7 : i) + 1), parameters);
}

/** CRC of whole bytes, any number of them. */
export function crcOfBytes(bytes: ArrayLike<number>, parameters: CrcParameters): bigint {
  const { reflectIn } = parameters;
  return runCrc(bytes.length * 8, (i) => (bytes[i >>> 3]! >>> (reflectIn ? i & 7 : 7 - (i & 7))) & 1, parameters);
}

/** CRC_A of ISO/IEC 14443-3: polynomial 1021, reflected, register preset 6363 in the standard's own bit order. */
export const CRC_A: CrcParameters = {
  width: 16,
  poly: 0x1021n,
  init: 0xc6c6n,
  reflectIn: true,
  reflectOut: true,
  xorOut: 0n,
};

/** The CRC of an OSDP packet: polynomial 1021, initial value 1D0F, sent least significant byte first. SIA OSDP v2. */
export const CRC_OSDP: CrcParameters = {
  width: 16,
  poly: 0x1021n,
  init: 0x1d0fn,
  reflectIn: false,
  reflectOut: false,
  xorOut: 0n,
};

/** Groups of `width` bits as numbers, the first one first; throws `xor-groups` unless the bits are whole groups. */
function groupsOf(bits: Bits, width: number): bigint[] {
  if (bits.length % width !== 0)
    fail(
      'xor-groups',
      `${bits.length} covered bits are not whole groups of ${width}.`,
      undefined,
      'Cover whole groups.',
    );
  return Array.from({ length: bits.length / width }, (_, k) => bits.slice(k * width + 1, (k + 1) * width).toBigInt());
}

/** Exclusive or of groups of `width` bits; throws `xor-groups` unless the bits are whole groups. */
export function xorSum(bits: Bits, width: number): bigint {
  return groupsOf(bits, width).reduce((sum, group) => sum ^ group, 0n);
}

/**
 * The LRC character of a string of 5-bit characters (4 data bits, least significant first, then odd parity): the data
 * bits make every column even over all characters, its own parity bit is odd over its own data bits.
 * Source: ISO/IEC 7811-2 track 2. Throws `xor-groups` unless the bits are whole characters.
 */
export function lrc5(bits: Bits): bigint {
  const data = xorSum(bits, 5) >> 1n;
  const ones = Bits.fromBigInt(data, 4).count();
  return (data << 1n) | BigInt(parityBit(ones, 'odd'));
}

/**
 * The sum of groups of `width` bits (1 to 32), of which the lowest `width` bits are kept; negated, its two's complement, so that all groups
 * and the check together add up to 0. Throws `xor-groups` unless the bits are whole groups.
 */
export function additiveSum(bits: Bits, width: number, negated: boolean): bigint {
  const sum = groupsOf(bits, width).reduce((all, group) => all + group, 0n);
  return BigInt.asUintN(width, negated ? -sum : sum);
}

/**
 * The modulo-10 check digit of decimal digits of 4 bits, most significant digit first: from the last digit on every second one is doubled, and
 * the digits of what that gives are summed. ISO/IEC 7812-1, annex B. Throws `mod10-digit` where a digit is above 9, `xor-groups` unless they are whole.
 */
export function mod10(bits: Bits): bigint {
  const digits = groupsOf(bits, 4).map(Number);
  const wrong = digits.findIndex((digit) => digit > 9);
  if (wrong >= 0)
    fail('mod10-digit', `Covered digit ${wrong + 1} is ${digits[wrong]}, above 9.`, { positions: [4 * wrong + 1] });
  const sum = digits.reduce((all, digit, i) => {
    const own = (digits.length - i) % 2 === 1 ? digit * 2 : digit;
    return all + (own > 9 ? own - 9 : own);
  }, 0);
  return BigInt((10 - (sum % 10)) % 10);
}
