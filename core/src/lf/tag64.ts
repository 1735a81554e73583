/**
 * The 64-bit identification tag (EM4100 data sheet, "Memory array"): nine 1s; ten rows of a nibble and its even parity;
 * four column parities, even; a 0. Forty bits of data: eight of version or customer code, thirty-two of number.
 */
import { fail } from '../failure/index.ts';

export const TAG_BITS = 64;
const ROWS = 10;
const HEADER = 9;

/** Forty data bits as a number below 2^40, as 64 binary digits, the first sent first. */
export function tagBits(data: bigint): string {
  if (data < 0n || data >= 1n << 40n) fail('tag-data', 'A tag holds 40 bits.', { field: 'data' });
  const digits = data.toString(2).padStart(40, '0');
  const nibbles = Array.from({ length: ROWS }, (_, row) => digits.slice(4 * row, 4 * row + 4));
  const columns = [0, 1, 2, 3].map((column) => parityOf(nibbles.map((nibble) => nibble[column]!).join('')));
  return `${'1'.repeat(HEADER) + nibbles.map((nibble) => nibble + parityOf(nibble)).join('') + columns.join('')}0`;
}

const parityOf = (digits: string): string => String([...digits].filter((digit) => digit === '1').length % 2);

export interface TagReading {
  data: bigint;
  /** Eight bits: version, or the customer's code. */
  version: number;
  /** Thirty-two bits. */
  number: number;
}

/** What 64 digits that begin with the header say, or undefined where a parity or the last bit is wrong. */
export function readTag(digits: string): TagReading | undefined {
  if (digits.length !== TAG_BITS || !digits.startsWith('1'.repeat(HEADER)) || digits[63] !== '0') return undefined;
  const rows = Array.from({ length: ROWS }, (_, row) => digits.slice(HEADER + 5 * row, HEADER + 5 * row + 5));
  if (rows.some((row) => parityOf(row) === '1')) return undefined;
  const columns = digits.slice(59, 63);
  const isWrong = [0, 1, 2, 3].some((column) => parityOf(rows.map((row) => row[column]!).join('')) !== columns[column]);
  if (isWrong) return undefined;
  const data = BigInt(`0b${rows.map((row) => row.slice(0, 4)).join('')}`);
  return { data, version: Number(data >> 32n), number: Number(data & 0xffffffffn) };
}

/** Finds the tag in a stream that repeats it, wherever it was begun to be heard, whichever way round its levels are. */
export function findTag(stream: string): TagReading | undefined {
  const inverted = [...stream].map((digit) => (digit === '1' ? '0' : '1')).join('');
  for (const digits of [stream, inverted])
    for (let at = 0; at + TAG_BITS <= digits.length; at++) {
      const found = readTag(digits.slice(at, at + TAG_BITS));
      // Heard twice, where there is room for it: once could be chance.
      const again = digits.slice(at + TAG_BITS, at + 2 * TAG_BITS);
      if (found && (again.length < TAG_BITS || again === digits.slice(at, at + TAG_BITS))) return found;
    }
  return undefined;
}
