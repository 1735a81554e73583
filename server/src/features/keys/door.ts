/**
 * The one door through which a key, or a part of one, leaves its envelope. Whatever opens an envelope says here which way the
 * key goes; a rule (`bin/lib/rules.test.ts`) keeps this the only file that opens one. What goes out is published on a channel
 * of `node:diagnostics_channel`, by its name and never with the key.
 */
import { channel } from 'node:diagnostics_channel';
import type { Bound, Open } from '../../platform/vault/index.ts';
import type { KeyRow, VersionRow } from './describe.ts';
import { boundOf } from './rows.ts';

/** Every way out, and who has to agree to it. */
export const WAYS_OUT = {
  'card on a pad': 'whoever encodes, within the use of the key',
  'simulated card': 'whoever encodes, within the use of the key; told in words alone',
  reader: 'whoever sets up doors, within the use of the key',
  revealed: 'a custodian, with another who agrees',
  'sealed for a partner': 'a custodian, with another who agrees',
  backup: 'a custodian, with another who agrees',
  'comparison with a backup': 'a custodian; only whether they are the same comes out',
  'component, to print': 'the custodian who gave it',
  'components, put together': 'every custodian of the key; goes into an envelope at once',
  'passphrase of a request': 'a custodian, with another who agrees',
} as const;
export type WayOut = keyof typeof WAYS_OUT;

/** Told of each key that goes out: `{ way, key, version }`. */
export const keysOut = channel('rawbits:key-out');

/** The key in a version. Whoever calls this lets it out of hand at once. */
export function keyOut(open: Open, way: WayOut, key: KeyRow, row: VersionRow): Uint8Array {
  keysOut.publish({ way, key: key.id, version: row.version });
  return open.open(row.envelope!, boundOf(key, row.version));
}

/** What else is in an envelope: a component, or a part of a passphrase. */
export function partOut(open: Open, way: WayOut, envelope: string, bound: Bound): Uint8Array {
  keysOut.publish({ way });
  return open.open(envelope, bound);
}

/** What is no secret in itself and was sealed so that it cannot be changed: the digest of what a key may be used for. */
export const digestIn = (open: Open, envelope: string, bound: Bound): Uint8Array => open.open(envelope, bound);

/** Puts what a rehearsal takes out of a file into an envelope and out again; whether it is the same then. */
export const isSameAgain = (open: Open, bytes: Uint8Array, bound: Bound): boolean =>
  Buffer.from(open.open(open.seal(bytes, bound), bound)).equals(bytes);

/** Whether an envelope that was just written gives back what went in. */
export const givesBack = (open: Open, envelope: string, bound: Bound, bytes: Uint8Array): boolean =>
  Buffer.from(open.open(envelope, bound)).equals(bytes);
