/** Cipher block chaining (NIST SP 800-38A §6.2). Lengths are whole blocks; inputs are not changed. */
import type { BlockCipher } from './block.ts';

/** Enciphers from the vector `iv`; the last block of what comes out is the vector that goes on. */
export function cbcEncrypt(cipher: BlockCipher, iv: Uint8Array, clear: Uint8Array): Uint8Array {
  const { size } = cipher;
  checkWhole(clear, size);
  // Not `slice`, which of a Buffer gives a view.
  const bytes = new Uint8Array(clear);
  for (let at = 0; at < bytes.length; at += size) {
    for (let i = 0; i < size; i++) bytes[at + i]! ^= at === 0 ? iv[i]! : bytes[at - size + i]!;
    cipher.encrypt(bytes, at);
  }
  return bytes;
}

/** Deciphers from the vector `iv`; the last block of what went in is the vector that goes on. */
export function cbcDecrypt(cipher: BlockCipher, iv: Uint8Array, enciphered: Uint8Array): Uint8Array {
  const { size } = cipher;
  checkWhole(enciphered, size);
  const bytes = new Uint8Array(enciphered);
  for (let at = 0; at < bytes.length; at += size) {
    cipher.decrypt(bytes, at);
    for (let i = 0; i < size; i++) bytes[at + i]! ^= at === 0 ? iv[i]! : enciphered[at - size + i]!;
  }
  return bytes;
}

function checkWhole(bytes: Uint8Array, size: number): void {
  if (bytes.length % size !== 0) throw new Error(`${bytes.length} bytes are no whole blocks of ${size}`);
}
