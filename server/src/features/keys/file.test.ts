/** Backups of keys against an independent library: Debian's python3-jwcrypto opens ours, and what it makes is opened here. */
import { execFileSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import { checkValueOf } from '@rawbits/core/key';
import { expect, it } from 'vitest';
import { decryptFile, encryptFile, type KeyFile, passphraseOf, writeKeyFile } from './file.ts';

const PARTS = ['herring rope lantern slate', 'ÅØ tide barrel copper'] as const;
const bytes = new Uint8Array(randomBytes(16));
const FILE: KeyFile = {
  site: 'Skerry Point',
  madeAt: '2026-11-26T00:00:00.000Z',
  keys: [
    {
      set: 'Staff cards',
      name: 'Card master',
      kind: 'aes128',
      purpose: 'card master',
      version: 3,
      inUse: true,
      bytes,
      checkValue: checkValueOf('aes128', bytes),
    },
  ],
};
const theirs = (what: 'open' | 'make', input: string) =>
  execFileSync('/usr/bin/python3', [join(import.meta.dirname, 'openJwe.py'), what, ...PARTS], {
    input,
    encoding: 'utf8',
  }).trim();

it('it opens a backup of ours, and finds the keys', async () => {
  const jwe = await encryptFile(FILE, passphraseOf(...PARTS));
  const { keys } = JSON.parse(theirs('open', jwe));
  expect(keys).toMatchObject([{ kty: 'oct', k: Buffer.from(bytes).toString('base64url'), rawbits_version: 3 }]);
});

it('a backup that it makes is opened here', async () => {
  const jwe = theirs('make', writeKeyFile(FILE));
  expect(await decryptFile(jwe, passphraseOf(...PARTS))).toEqual(FILE);
});
