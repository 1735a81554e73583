/** What kinds of keys there are, and what a key of each must be. */
import { bytesOf, hexOf, sameBytes } from '../cipher/index.ts';
import { fail } from '../failure/index.ts';

/**
 * `tdes2` and `tdes3`: triple DES with two and three keys; `sector`: a key of a sector card; `osdp`: a device key of OSDP;
 * `tag`: the password of a rewritable tag.
 */
export const KEY_KINDS = ['aes128', 'tdes2', 'tdes3', 'sector', 'osdp', 'tag'] as const;
export type KeyKind = (typeof KEY_KINDS)[number];

export const KEY_BYTES: Record<KeyKind, number> = { aes128: 16, tdes2: 16, tdes3: 24, sector: 6, osdp: 16, tag: 4 };

export const isTripleDes = (kind: KeyKind): kind is 'tdes2' | 'tdes3' => kind === 'tdes2' || kind === 'tdes3';

/** The bytes of a key written in hex. Throws `hex` or `bytes` with its field. */
export const keyOf = (kind: KeyKind, hex: string, field = 'key'): Uint8Array => bytesOf(hex, field, KEY_BYTES[kind]);

/** Whether every byte has an odd number of ones, as DES wants it (FIPS 46-3); chips and most software do not look. */
export const parityHolds = (key: Uint8Array): boolean => key.every((byte) => onesIn(byte) % 2 === 1);

/** The key with the lowest bit of each byte set so that its parity is odd: to DES the same key. */
export const withParity = (key: Uint8Array): Uint8Array =>
  key.map((byte) => (onesIn(byte & 0xfe) % 2 === 0 ? byte | 1 : byte & 0xfe));

function onesIn(byte: number): number {
  let ones = 0;
  for (let rest = byte; rest > 0; rest >>= 1) ones += rest & 1;
  return ones;
}

/**
 * The version that some chips keep in a triple DES key: the lowest bits of its first eight bytes, the first byte's the
 * most significant (file-system cards; CHIPS, "Version of a DES key").
 */
export function versionIn(key: Uint8Array): number {
  let version = 0;
  for (let i = 0; i < 8; i++) version = (version << 1) | (key[i]! & 1);
  return version;
}

/** The key with a version from 0 to 255 in its first eight bytes: to DES the same key. */
export const withVersion = (key: Uint8Array, version: number): Uint8Array =>
  key.map((byte, i) => (i < 8 ? (byte & 0xfe) | ((version >> (7 - i)) & 1) : byte));

/**
 * The keys under which DES enciphers as it deciphers, or as another of them deciphers (NIST SP 800-67 §3.4.2), with the
 * lowest bit of each byte 0; of the second six each also with its bytes in pairs exchanged.
 */
const WEAK = ['0000000000000000', 'FEFEFEFEFEFEFEFE', '1E1E1E1E0E0E0E0E', 'E0E0E0E0F0F0F0F0'];
const SEMI_WEAK = [
  '00FE00FE00FE00FE',
  '1EE01EE00EF00EF0',
  '00E000E000F000F0',
  '1EFE1EFE0EFE0EFE',
  '001E001E000E000E',
  'E0FEE0FEF0FEF0FE',
];
const WEAK_PARTS = new Set([...WEAK, ...SEMI_WEAK, ...SEMI_WEAK.map((hex) => hex.replace(/(..)(..)/g, '$2$1'))]);

/** Why nobody should use a key, in words; an empty list where nothing speaks against it. */
export function weaknessesOf(kind: KeyKind, key: Uint8Array): string[] {
  const found: string[] = [];
  if (key.every((byte) => byte === key[0])) found.push('All of its bytes are the same.');
  else if (isCounting(key)) found.push('Its bytes count up or down.');
  if (!isTripleDes(kind)) return found;
  const parts = Array.from({ length: key.length / 8 }, (_, i) => withVersion(key.subarray(8 * i, 8 * i + 8), 0));
  if (parts.some((part, i) => parts.slice(i + 1).some((other) => sameBytes(part, other))))
    found.push('Two of its parts are the same, so it is worth no more than fewer of them.');
  if (parts.some((part) => WEAK_PARTS.has(hexOf(part)))) found.push('One of its parts is a weak key of DES.');
  return found;
}

const isCounting = (key: Uint8Array): boolean => {
  const steps = [...key].slice(1).map((byte, i) => (byte - key[i]! + 256) % 256);
  return steps.every((step) => step === steps[0]) && [1, 17, 239, 255].includes(steps[0]!);
};

/**
 * Throws `key-parity` where a triple DES key has not the odd parity that DES keys are written down with: a digit is mistyped
 * then in one of two cases, or the lowest bits hold a version.
 */
export function assertParity(kind: KeyKind, key: Uint8Array, field = 'key'): void {
  if (!isTripleDes(kind) || parityHolds(key)) return;
  const at = key.findIndex((byte) => !parityHolds(Uint8Array.of(byte)));
  fail(
    'key-parity',
    `Byte ${at + 1} has an even number of ones, and DES keys are written with an odd one.`,
    { field, positions: [at + 1] },
    'Compare it with its sheet. To the cipher the lowest bit of each byte is nothing, so it can be kept as it is.',
  );
}

/** Throws `key-weak` where something speaks against a key. */
export function assertStrong(kind: KeyKind, key: Uint8Array, field = 'key'): void {
  const [why] = weaknessesOf(kind, key);
  if (why !== undefined)
    fail('key-weak', `This is a weak key. ${why}`, { field }, 'Let one be made from a secure source.');
}
