/** Keys as the host has them: the cipher of one, those of a session, and how a new one is sent (DOMAIN §4, CHIPS). */
import { Aes, type BlockCipher, Cmac, joined, TripleDes, xored } from '../cipher/index.ts';
import { fail } from '../failure/index.ts';
import { type Channel, FirstChannel, type Outgoing, SecondChannel, ThirdChannel } from './channel.ts';
import { checksum16, checksum32 } from './checksums.ts';

export type HostKeyKind = 'tdes2' | 'tdes3' | 'aes128';
export interface HostKey {
  kind: HostKeyKind;
  bytes: Uint8Array;
  /** Of AES keys. */
  version?: number;
}
const halvesEqual = (bytes: Uint8Array): boolean => {
  for (let i = 0; i < 8; i++) if (bytes[i]! >> 1 !== bytes[8 + i]! >> 1) return false;
  return true;
};
export const cipherOf = ({ kind, bytes }: HostKey): BlockCipher => {
  if (kind === 'aes128') return new Aes(bytes);
  return new TripleDes(kind === 'tdes2' && halvesEqual(bytes) ? bytes.subarray(0, 8) : bytes);
};

/** The key of a session, as the two parts of both sides make it. */
export function sessionCipher({ kind, bytes }: HostKey, own: Uint8Array, theirs: Uint8Array): BlockCipher {
  const take = (...starts: number[]): Uint8Array =>
    joined(...starts.flatMap((at) => [own.subarray(at, at + 4), theirs.subarray(at, at + 4)]));
  if (kind === 'aes128') return new Aes(take(0, 12));
  if (kind === 'tdes3') return new TripleDes(take(0, 6, 12));
  return new TripleDes(halvesEqual(bytes) ? take(0) : take(0, 4));
}

export function newerKeys(
  key: Uint8Array,
  own: Uint8Array,
  theirs: Uint8Array,
): { enciphering: Uint8Array; mac: Uint8Array } {
  const mixed = xored(own.subarray(2, 8), theirs.subarray(0, 6));
  const rest = joined([0x00, 0x01, 0x00, 0x80], own.subarray(0, 2), mixed, theirs.subarray(6, 16), own.subarray(8, 16));
  const under = new Cmac(new Aes(key));
  return { enciphering: under.of(joined([0xa5, 0x5a], rest)), mac: under.of(joined([0x5a, 0xa5], rest)) };
}

/** What a ChangeKey carries after the key's number; `other` is the new key where another than the session's is changed. */
export function sealedKey(
  channel: Channel,
  command: Outgoing,
  body: Uint8Array,
  other: Uint8Array | undefined,
): Uint8Array {
  const fill = (bytes: Uint8Array, block: number): Uint8Array =>
    joined(bytes, new Uint8Array((block - (bytes.length % block)) % block));
  if (channel instanceof FirstChannel)
    return channel.backwards(fill(joined(body, checksum16(body), other ? checksum16(other) : []), 8));
  if (channel instanceof SecondChannel) {
    const checked = checksum32(joined([command.code], command.header, body));
    return channel.encipher(joined(body, checked, other ? checksum32(other) : []));
  }
  if (!(channel instanceof ThirdChannel))
    return fail('not-authenticated', `${command.name}: nothing is authenticated.`);
  const data = joined(body, other ? checksum32(other) : []);
  return channel.seal({ ...command, data, protection: 'enciphered' }).subarray(command.header.length);
}
