/**
 * The key that comes of a passphrase: argon2id (RFC 9106) with the parameters that §4 recommends second: 64 MiB, three
 * passes, four lanes. One at a time: a heap of tries at once costs time, not memory.
 */
import { hashRaw } from '@node-rs/argon2';
import type { Secret } from '@rawbits/core/secret';

export interface Derivation {
  /** 16 bytes in hex. */
  salt: string;
  memoryKib: number;
  passes: number;
  lanes: number;
}

export const USUAL = { memoryKib: 65_536, passes: 3, lanes: 4 };

/** As the package numbers them. */
const ARGON2ID = 2;

let last: Promise<unknown> = Promise.resolve();

/** 32 bytes. What is typed is taken in Unicode's composed form (RFC 8265 §4.2), so every keyboard gives the same. */
export function derived(passphrase: Secret, { salt, memoryKib, passes, lanes }: Derivation): Promise<Uint8Array> {
  const done = last.then(() =>
    hashRaw(passphrase.reveal().normalize('NFC'), {
      algorithm: ARGON2ID,
      salt: Buffer.from(salt, 'hex'),
      memoryCost: memoryKib,
      timeCost: passes,
      parallelism: lanes,
      outputLen: 32,
    }),
  );
  last = done.catch(() => {});
  return done.then((bytes) => new Uint8Array(bytes));
}
