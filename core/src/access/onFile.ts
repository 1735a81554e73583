/** Cards as the engine looks them up: by number, with what a decision asks of them worked out beforehand. */
import type { Credential } from './credential.ts';

/** A value as a key: a number while it is exact, else its decimal digits. */
export type Key = number | string | undefined;

export interface OnFile {
  credential: Credential;
  facility: Key;
  active: boolean;
  fromMs: number;
  toMs: number;
}

/** What is on file under a number; undefined or empty where nothing is. */
export type Lookup = (number: number | string) => readonly OnFile[] | undefined;

/** A decimal as a key, where it is written as a decoded value would be; other spellings match nothing, as at the door. */
export function keyOf(decimal: string): Key {
  if (!/^(0|[1-9]\d*)$/.test(decimal)) return undefined;
  return decimal.length <= 15 || BigInt(decimal) < 1n << 53n ? Number(decimal) : decimal;
}

export const onFile = (credential: Credential): OnFile => ({
  credential,
  facility: credential.facility === null ? undefined : (keyOf(credential.facility) ?? 'no code'),
  active: credential.state === 'active',
  fromMs: credential.validFrom ? Date.parse(credential.validFrom) : Number.NEGATIVE_INFINITY,
  toMs: credential.validTo ? Date.parse(credential.validTo) : Number.POSITIVE_INFINITY,
});

/** Looks up among these credentials. Building it costs all of them, looking up only those of the number. */
export function lookupIn(credentials: Iterable<Credential>): Lookup {
  const byNumber = new Map<Key, OnFile[]>();
  for (const credential of credentials) {
    const key = keyOf(credential.number);
    if (key === undefined) continue;
    const same = byNumber.get(key);
    if (same) same.push(onFile(credential));
    else byNumber.set(key, [onFile(credential)]);
  }
  return (number) => byNumber.get(number);
}
