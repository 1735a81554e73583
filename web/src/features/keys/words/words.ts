/** How keys are spoken of on the screen. */
import type { Key, KeyVersion } from '@rawbits/api';
import type { KeyKind } from '@rawbits/core/key';

export const KIND_WORDS: Record<KeyKind, string> = {
  aes128: 'AES-128',
  tdes2: '3DES, two keys',
  tdes3: '3DES, three keys',
  sector: 'sector key, 48 bits',
  osdp: 'OSDP device key',
  tag: 'password of a tag, 32 bits',
};

/** Which kind of check value it is. */
export const CHECK_WORDS = { zeros: 'KCV of zeros', cmac: 'KCV of CMAC' } as const;

export const ORIGIN_WORDS: Record<KeyVersion['origin'], string> = {
  made: 'made here',
  typed: 'typed in',
  components: 'from components',
  imported: 'from a file',
  restored: 'from a backup',
};

export const versionOf = (key: Key, version: number | null): KeyVersion | undefined =>
  key.versions.find((one) => one.version === version);

export const isPastEnd = ({ validTo }: KeyVersion, now = new Date().toISOString()): boolean =>
  validTo !== null && validTo <= now;

/** Where a version stands, in a word or two. */
export function standingOf(key: Key, version: KeyVersion): string {
  if (version.state === 'destroyed') return 'destroyed';
  if (version.state === 'waiting') return `waits for ${version.parts - version.components.length} of ${version.parts}`;
  const standing = key.current === version.version ? 'in use' : 'ready';
  return isPastEnd(version) ? `${standing}, past its end` : standing;
}

/** Hex digits in groups of four, to be read and copied by eye. */
export const grouped = (hex: string): string => hex.replace(/(.{4})(?=.)/g, '$1 ');
