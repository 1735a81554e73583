/**
 * AES (FIPS 197), the block alone, under an expanded key that is kept: what a chip does thousands of times under one key.
 * The rounds are those of @noble/ciphers.
 */
import { unsafe } from '@noble/ciphers/aes.js';
import type { BlockCipher } from './block.ts';

export class Aes implements BlockCipher {
  readonly size = 16;
  private readonly forward: Uint32Array;
  private backward: Uint32Array | undefined;
  private readonly key: Uint8Array;

  /** `key` has 16, 24 or 32 bytes. Throws where it has not. */
  constructor(key: Uint8Array) {
    if (![16, 24, 32].includes(key.length)) throw new Error(`an AES key has 16, 24 or 32 bytes, not ${key.length}`);
    this.key = new Uint8Array(key);
    this.forward = unsafe.expandKeyLE(this.key);
  }

  encrypt(bytes: Uint8Array, at = 0): void {
    const { s0, s1, s2, s3 } = unsafe.encrypt(
      this.forward,
      word(bytes, at),
      word(bytes, at + 4),
      word(bytes, at + 8),
      word(bytes, at + 12),
    );
    put(bytes, at, s0, s1, s2, s3);
  }

  decrypt(bytes: Uint8Array, at = 0): void {
    this.backward ??= unsafe.expandKeyDecLE(this.key);
    const { s0, s1, s2, s3 } = unsafe.decrypt(
      this.backward,
      word(bytes, at),
      word(bytes, at + 4),
      word(bytes, at + 8),
      word(bytes, at + 12),
    );
    put(bytes, at, s0, s1, s2, s3);
  }
}

/** Four bytes as a number, the least significant first. */
const word = (bytes: Uint8Array, at: number): number =>
  (bytes[at]! | (bytes[at + 1]! << 8) | (bytes[at + 2]! << 16) | (bytes[at + 3]! << 24)) >>> 0;

function put(bytes: Uint8Array, at: number, s0: number, s1: number, s2: number, s3: number): void {
  putWord(bytes, at, s0);
  putWord(bytes, at + 4, s1);
  putWord(bytes, at + 8, s2);
  putWord(bytes, at + 12, s3);
}

function putWord(bytes: Uint8Array, at: number, value: number): void {
  bytes[at] = value;
  bytes[at + 1] = value >>> 8;
  bytes[at + 2] = value >>> 16;
  bytes[at + 3] = value >>> 24;
}
