/** AES key wrap (RFC 3394): a key under a key, so that a wrong or damaged one is known. Lengths are multiples of 8, from 16. */
import { aeskw } from '@noble/ciphers/aes.js';
import { fail } from '../failure/index.ts';

/** Eight bytes longer than the key. */
export const wrapped = (wrapping: Uint8Array, key: Uint8Array): Uint8Array => aeskw(wrapping).encrypt(key);

/** Throws `unwrap` where it was wrapped under another key, or is not what was wrapped. */
export function unwrapped(wrapping: Uint8Array, bytes: Uint8Array): Uint8Array {
  try {
    return aeskw(wrapping).decrypt(bytes);
  } catch {
    return fail('unwrap', 'The key does not come out: it was wrapped under another key, or is damaged.');
  }
}
