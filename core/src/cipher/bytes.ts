/** Bytes as text and back, and what block ciphers do with them. */
import { fail } from '../failure/index.ts';

const HEX = Array.from({ length: 256 }, (_, byte) => byte.toString(16).toUpperCase().padStart(2, '0'));

/** Upper-case hex, two digits a byte, the first byte first. */
export function hexOf(bytes: Uint8Array): string {
  let text = '';
  for (const byte of bytes) text += HEX[byte];
  return text;
}

/**
 * The bytes of a text of hex digits; spaces between bytes are passed over. `field` names it in an error. Throws `hex`
 * where a character is no hex digit or half a byte is left over, and `bytes` where it has not `length` bytes.
 */
export function bytesOf(hex: string, field: string, length?: number): Uint8Array {
  const digits = hex.replace(/\s+/g, '');
  const wrong = digits.search(/[^0-9a-fA-F]/);
  if (wrong >= 0) fail('hex', `"${digits[wrong]}" is no hex digit.`, { field, column: wrong + 1 });
  if (digits.length % 2 === 1) fail('hex', 'Half a byte is left over.', { field }, 'Write two hex digits a byte.');
  if (length !== undefined && digits.length !== 2 * length)
    fail('bytes', `${field} has ${digits.length / 2} bytes, not ${length}.`, { field });
  const bytes = new Uint8Array(digits.length / 2);
  for (let i = 0; i < bytes.length; i++) bytes[i] = Number.parseInt(digits.slice(2 * i, 2 * i + 2), 16);
  return bytes;
}

/** One after the other. */
export function joined(...parts: readonly (Uint8Array | readonly number[])[]): Uint8Array {
  let length = 0;
  for (const part of parts) length += part.length;
  const bytes = new Uint8Array(length);
  let at = 0;
  // Short as they mostly are, `set` would cost more than the bytes.
  for (const part of parts) for (let i = 0; i < part.length; i++) bytes[at++] = part[i]!;
  return bytes;
}

/** Byte by byte, of two of one length. */
export function xored(a: Uint8Array, b: Uint8Array): Uint8Array {
  if (a.length !== b.length) throw new Error(`${a.length} bytes cannot be combined with ${b.length}`);
  return a.map((byte, i) => byte ^ b[i]!);
}

/** Whether two are the same, in a time that does not tell where they differ. */
export function sameBytes(a: Uint8Array, b: Uint8Array): boolean {
  if (a.length !== b.length) return false;
  let differs = 0;
  for (let i = 0; i < a.length; i++) differs |= a[i]! ^ b[i]!;
  return differs === 0;
}

/** The first byte last: `01 02 03` becomes `02 03 01`. */
export function rotatedLeft(bytes: Uint8Array): Uint8Array {
  const rotated = new Uint8Array(bytes.length);
  for (let i = 1; i < bytes.length; i++) rotated[i - 1] = bytes[i]!;
  rotated[bytes.length - 1] = bytes[0]!;
  return rotated;
}

/** A number as so many bytes, the least significant first; `value` from 0 to below 256^count. */
export function littleEndian(value: number, count: number): Uint8Array {
  const bytes = new Uint8Array(count);
  for (let i = 0, rest = value; i < count; i++, rest = Math.floor(rest / 256)) bytes[i] = rest % 256;
  return bytes;
}

/** What `littleEndian` writes, read; up to 6 bytes. */
export function fromLittleEndian(bytes: Uint8Array): number {
  let value = 0;
  for (let i = bytes.length - 1; i >= 0; i--) value = value * 256 + bytes[i]!;
  return value;
}

/** Four bytes as a word, the first the most significant. */
export const wordOf = (bytes: Uint8Array): number => bytes.reduce((word, byte) => ((word << 8) | byte) >>> 0, 0);
