/**
 * Key check values: by what a key is told without showing it. The first three bytes of a block of zeros enciphered under
 * the key, or of its CMAC over nothing (common practice, no source; which one is said beside the value). Three bytes
 * tell two keys apart in all but one of 16,777,216 cases, and say nothing that helps to find a key of 112 bits or more;
 * of a 48-bit sector key they would take half a day off a search, so those have a check value of another make; to a password
 * of 32 bits they would leave 256, so its check value is one byte.
 */
import { Aes, Cmac, hexOf, joined, TripleDes } from '../cipher/index.ts';
import { fail } from '../failure/index.ts';
import { isTripleDes, type KeyKind } from './kinds.ts';

export const CHECK_VALUES = ['zeros', 'cmac'] as const;
export type CheckValueOf = (typeof CHECK_VALUES)[number];

const BYTES = 3;

/** The usual one of a kind: AES by CMAC, triple DES by a block of zeros. */
export const usualCheckValue = (kind: KeyKind): CheckValueOf => (isTripleDes(kind) ? 'zeros' : 'cmac');

/**
 * The check value of a key: three bytes in upper-case hex, one of a tag's password. Sector keys and passwords have no cipher
 * of their own that may stand here: theirs is the value of the AES key of their bytes and zeros after them (ours).
 */
export function checkValueOf(kind: KeyKind, key: Uint8Array, of: CheckValueOf = usualCheckValue(kind)): string {
  const cipher = isTripleDes(kind)
    ? new TripleDes(key)
    : new Aes(key.length < 16 ? joined(key, new Uint8Array(16 - key.length)) : key);
  const bytes = kind === 'tag' ? 1 : BYTES;
  if (of === 'cmac') return hexOf(new Cmac(cipher).of(new Uint8Array(0)).subarray(0, bytes));
  if (of !== 'zeros')
    fail('check-value', `There is no check value "${String(of)}".`, { field: 'of' }, 'Use zeros or cmac.');
  const block = new Uint8Array(cipher.size);
  cipher.encrypt(block);
  return hexOf(block.subarray(0, bytes));
}
