/** A check in a read: where it stands, what it is over, and what it says. */
import type { Bits } from '../../bits/index.ts';
import { type CheckMethod, printMethod } from '../../format/index.ts';

/** A check in a read, positions from 0. */
export interface CheckAt {
  method: CheckMethod;
  width: number;
  /** Where it stands. */
  at: number;
  /** What it is over, both ends included. */
  first: number;
  last: number;
  /** Whether it is over, and stands in, the complement of the read. */
  inverted: boolean;
  /** How unusual it is, in bits. */
  bits: number;
}

export interface Checks {
  found: CheckAt[];
  /** Whether these are all that agree with the reads; few reads agree with more than are listed. */
  areAll: boolean;
}

/** What a check says over a read (a bit a number, in which it need not stand), as a number of its width. */
export function valueOver({ method, first, last, inverted, width }: CheckAt, read: ArrayLike<number>): number {
  const turn = inverted ? 1 : 0;
  const mask = 2 ** width - 1;
  if (method.kind === 'crc') {
    const { poly, init, xorOut, isReflected } = numbersOf(method);
    let register = init;
    for (let i = first; i <= last; i++) {
      const at = isReflected ? first + ((i - first) ^ 7) : i;
      const out = (register >> (width - 1)) ^ read[at]! ^ turn;
      register = ((register << 1) & mask) ^ (out & 1 ? poly : 0);
    }
    return (isReflected ? mirrored(register, width) : register) ^ xorOut ^ (turn && mask);
  }
  if (method.kind === 'sum') {
    let total = 0;
    for (let i = first; i <= last; i++) total += (read[i]! ^ turn) << (width - 1 - ((i - first) % width));
    return ((method.negated ? -total : total) & mask) ^ (turn && mask);
  }
  let sum = 0;
  for (let i = first; i <= last; i++) sum ^= (read[i]! ^ turn) << (width - 1 - ((i - first) % width));
  return (method.kind === 'lrc5' ? withOddParity(sum >> 1) : sum) ^ (turn && mask);
}

const known = new WeakMap<CheckMethod, { poly: number; init: number; xorOut: number; isReflected: boolean }>();
/** The numbers of a CRC, taken from their digits once. */
function numbersOf(method: Extract<CheckMethod, { kind: 'crc' }>) {
  let numbers = known.get(method);
  if (!numbers) {
    const [poly, init, xorOut] = [method.poly, method.init, method.xorOut].map((digits) => Number.parseInt(digits, 16));
    numbers = { poly: poly!, init: init!, xorOut: xorOut!, isReflected: method.reflectIn };
    known.set(method, numbers);
  }
  return numbers;
}

/** Whether a check stands in a read. */
export function holds(check: CheckAt, read: Bits): boolean {
  const value = valueOver(
    check,
    Uint8Array.from({ length: read.length }, (_, p) => read.at(p + 1)),
  );
  return Number(read.slice(check.at + 1, check.at + check.width).toBigInt()) === value;
}

export function withOddParity(data: number): number {
  const ones = (data & 1) + ((data >> 1) & 1) + ((data >> 2) & 1) + ((data >> 3) & 1);
  return (data << 1) | ((ones & 1) ^ 1);
}

/** A value of a width with its bits in the other order. */
export function mirrored(value: number, width: number): number {
  let out = 0;
  for (let i = 0; i < width; i++) if ((value >> i) & 1) out |= 1 << (width - 1 - i);
  return out;
}

/** As in `bits 25 to 32 are check crc8(poly=1D,init=C7) over bits 1 to 24`. */
export const checkInWords = ({ method, width, at, first, last }: CheckAt): string =>
  `bits ${at + 1} to ${at + width} are check ${printMethod(method)} over bits ${first + 1} to ${last + 1}`;
