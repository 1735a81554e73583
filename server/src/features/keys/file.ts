/**
 * Keys as a file: a JWK Set (RFC 7517) of octet sequences (RFC 7518 §6.4), with members of our own that say set, name,
 * kind, purpose and version. A backup is that set in a JWE (RFC 7516) under a passphrase: PBES2-HS512+A256KW (RFC 7518
 * §4.8) and A256GCM, so any library that reads JOSE opens it.
 */
import { type KEY_PURPOSES, keyFileSchema, type keyKindSchema } from '@rawbits/api';
import { checkValueOf, KEY_BYTES } from '@rawbits/core/key';
import { Secret } from '@rawbits/core/secret';
import { CompactEncrypt, compactDecrypt } from 'jose';
import type { z } from 'zod';
import { HttpProblem, invalid } from '../../platform/problem/problem.ts';
import { measuredJson } from '../../platform/shape/shape.ts';

/** OWASP's cheat sheet on storing passwords asks for 210,000 of PBKDF2 with HMAC-SHA-512. */
const ROUNDS = 250_000;
const MOST_ROUNDS = 1_000_000;
const ALG = 'PBES2-HS512+A256KW';
const ENC = 'A256GCM';
const TYPE = 'jwk-set+json';

export interface FileKey {
  set: string;
  name: string;
  kind: z.output<typeof keyKindSchema>;
  purpose: (typeof KEY_PURPOSES)[number];
  version: number;
  /** Whether this is the version in use. */
  inUse: boolean;
  bytes: Uint8Array;
  checkValue: string;
}
export interface KeyFile {
  site: string | null;
  madeAt: string | null;
  keys: FileKey[];
}

const IMPORTED = 'Imported';
/** More than any list of a file of keys has. */
const MOST_KEYS = 10_000;

/** What a text holds; what is wrong with it is told without any of its keys. */
export function readKeyFile(content: Secret): KeyFile {
  const value = measuredJson(content.reveal(), MOST_KEYS);
  if (value === undefined)
    throw invalid('text', 'The file is not JSON.', 'Give a JWK Set: an object with a list of "keys".');
  const read = keyFileSchema.safeParse(value);
  if (!read.success) {
    const { path } = read.error.issues[0]!;
    throw invalid('text', `The file is not a set of keys: ${path.join('.') || 'its outermost object'} is not right.`);
  }
  const keys = read.data.keys.map((entry, i): FileKey => {
    const name = entry.rawbits_name ?? entry.kid;
    if (!name) throw invalid('text', `Key ${i + 1} of the file has no name.`, 'Give it a "kid".');
    const bytes = new Uint8Array(Buffer.from(entry.k, 'base64url'));
    if (bytes.length !== KEY_BYTES[entry.rawbits_kind])
      throw invalid('text', `"${name}" has ${bytes.length} bytes, not ${KEY_BYTES[entry.rawbits_kind]}.`);
    return {
      set: entry.rawbits_set ?? IMPORTED,
      name,
      kind: entry.rawbits_kind,
      purpose: entry.rawbits_purpose,
      version: entry.rawbits_version,
      inUse: entry.rawbits_in_use ?? true,
      bytes,
      checkValue: checkValueOf(entry.rawbits_kind, bytes),
    };
  });
  refuseTwice(keys);
  const { rawbits_site: site, rawbits_made_at: madeAt } = read.data;
  return { site: site ?? null, madeAt: madeAt ?? null, keys };
}

function refuseTwice(keys: FileKey[]): void {
  const seen = new Map<string, FileKey>();
  for (const key of keys) {
    const at = JSON.stringify([key.set, key.name, key.version]);
    if (seen.has(at))
      throw invalid('text', `"${key.set} / ${key.name}", version ${key.version}, stands in the file twice.`);
    seen.set(at, key);
  }
}

export const writeKeyFile = ({ site, madeAt, keys }: KeyFile): string =>
  JSON.stringify({
    rawbits_site: site,
    rawbits_made_at: madeAt,
    keys: keys.map((key) => ({
      kty: 'oct',
      kid: `${key.set} / ${key.name} / ${key.version}`.slice(0, 120),
      k: Buffer.from(key.bytes).toString('base64url'),
      rawbits_set: key.set,
      rawbits_name: key.name,
      rawbits_kind: key.kind,
      rawbits_purpose: key.purpose,
      rawbits_version: key.version,
      rawbits_in_use: key.inUse,
    })),
  });

/** The passphrase of a backup: both parts, a line each. */
export const passphraseOf = (first: string, second: string): Uint8Array =>
  new TextEncoder().encode(`${first.normalize('NFC')}\n${second.normalize('NFC')}`);

/** A JWE under a passphrase; `cty` is the media type of the text, as RFC 7515 §4.1.10 writes it. */
export const encryptUnder = (text: string, cty: string, passphrase: Uint8Array): Promise<string> =>
  new CompactEncrypt(new TextEncoder().encode(text))
    .setProtectedHeader({ alg: ALG, enc: ENC, cty })
    .setKeyManagementParameters({ p2c: ROUNDS })
    .encrypt(passphrase);

export const encryptFile = (file: KeyFile, passphrase: Uint8Array): Promise<string> =>
  encryptUnder(writeKeyFile(file), TYPE, passphrase);

interface Unopened {
  code: string;
  message: string;
  hint: string;
}

/** Throws where the passphrase is not right, the file was changed, or asks for more work than any of ours. */
export async function decryptUnder(jwe: string, passphrase: Uint8Array, unopened: Unopened): Promise<Secret> {
  try {
    const { plaintext } = await compactDecrypt(jwe, passphrase, {
      keyManagementAlgorithms: [ALG],
      contentEncryptionAlgorithms: [ENC],
      maxPBES2Count: MOST_ROUNDS,
    });
    return new Secret(new TextDecoder().decode(plaintext));
  } catch {
    throw new HttpProblem(422, { ...unopened, where: { field: 'jwe' } });
  }
}

export const decryptFile = async (jwe: string, passphrase: Uint8Array): Promise<KeyFile> =>
  readKeyFile(
    await decryptUnder(jwe, passphrase, {
      code: 'backup',
      message: 'The backup does not open.',
      hint: 'One of the two parts of its passphrase is not right, they stand in the wrong order, or the file was damaged or changed.',
    }),
  );
