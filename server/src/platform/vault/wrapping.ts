/** The store key under its passphrase: made, wrapped, and taken out again. */
import { randomBytes } from 'node:crypto';
import type { Secret } from '@rawbits/core/secret';
import { type Derivation, derived, USUAL } from './derive.ts';
import { type Bound, enveloped, taken } from './envelope.ts';

export const STORE_KEY_BYTES = 32;

/** What the database has of it. */
export interface Wrapped extends Derivation {
  siteId: string;
  wrapped: string;
  /** Grows with each change of the passphrase. */
  revision: number;
}

const boundTo = ({ siteId, revision, salt, memoryKib, passes, lanes }: Omit<Wrapped, 'wrapped'>): Bound => [
  'store key',
  siteId,
  String(revision),
  salt,
  String(memoryKib),
  String(passes),
  String(lanes),
];

export const newStoreKey = (): Uint8Array => new Uint8Array(randomBytes(STORE_KEY_BYTES));

export async function wrap(siteId: string, revision: number, key: Uint8Array, passphrase: Secret): Promise<Wrapped> {
  const about = { siteId, revision, salt: randomBytes(16).toString('hex'), ...USUAL };
  const wrapping = await derived(passphrase, about);
  const wrapped = enveloped(wrapping, key, boundTo(about));
  wrapping.fill(0);
  return { ...about, wrapped };
}

/** Throws `envelope` where the passphrase is not right, or what is kept was changed: of the two nobody can tell which. */
export async function unwrap(row: Wrapped, passphrase: Secret): Promise<Uint8Array> {
  const wrapping = await derived(passphrase, row);
  try {
    return taken(wrapping, row.wrapped, boundTo(row));
  } finally {
    wrapping.fill(0);
  }
}
