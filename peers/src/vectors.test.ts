/**
 * Ciphers, CMAC and key wrap against the vectors of NIST that Debian packs (python3-cryptography-vectors): CAVP's for AES
 * (AESVS), triple DES (TMOVS) and key wrap (SP 800-38F), and the examples of SP 800-38B.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  Aes,
  type BlockCipher,
  bytesOf,
  Cmac,
  cbcDecrypt,
  cbcEncrypt,
  hexOf,
  joined,
  TripleDes,
} from '@rawbits/core/cipher';
import { unwrapped, wrapped } from '@rawbits/core/key';
import { describe, expect, it } from 'vitest';

const FOLDER = '/usr/lib/python3/dist-packages/cryptography_vectors';
const hex = (text: string) => bytesOf(text, 'vector');

interface Vector {
  [field: string]: string;
}

/** The vectors of a file, field by field; `FAIL` stands where one is to be refused. */
function vectorsIn(...path: string[]): Vector[] {
  const vectors: Vector[] = [];
  for (const line of readFileSync(join(FOLDER, ...path), 'utf8').split('\n')) {
    const [, field, value] = /^(\w+) =\s*(\S*)\s*$/.exec(line.trim()) ?? [];
    if (field === 'COUNT') vectors.push({});
    else if (field !== undefined) vectors.at(-1)![field.toUpperCase()] = value!;
    else if (line.trim() === 'FAIL') vectors.at(-1)!.FAIL = 'yes';
  }
  return vectors;
}

const keyIn = ({ KEY, KEYS, KEY1 = '', KEY2 = '', KEY3 = '' }: Vector): Uint8Array => {
  if (KEY !== undefined) return hex(KEY);
  return KEYS === undefined ? joined(hex(KEY1), hex(KEY2), hex(KEY3)) : hex(KEYS);
};

/** Both ways, chained from the vector's IV, or each block by itself where it has none. */
function holds(cipher: BlockCipher, vector: Vector): void {
  const [clear, enciphered] = [hex(vector.PLAINTEXT!), hex(vector.CIPHERTEXT!)];
  if (vector.IV !== undefined) {
    const iv = hex(vector.IV);
    expect(hexOf(cbcEncrypt(cipher, iv, clear))).toBe(hexOf(enciphered));
    expect(hexOf(cbcDecrypt(cipher, iv, enciphered))).toBe(hexOf(clear));
    return;
  }
  for (let at = 0; at < clear.length; at += cipher.size) {
    const block = clear.slice(at, at + cipher.size);
    cipher.encrypt(block);
    expect(hexOf(block)).toBe(hexOf(enciphered.subarray(at, at + cipher.size)));
    cipher.decrypt(block);
    expect(hexOf(block)).toBe(hexOf(clear.subarray(at, at + cipher.size)));
  }
}

const filesIn = (pattern: RegExp, ...path: string[]) =>
  readdirSync(join(FOLDER, ...path)).filter((name) => pattern.test(name));

describe('NIST', () => {
  it.each(['ECB', 'CBC'])('AES, %s: every vector for keys of 128 and 256 bits', (mode) => {
    let count = 0;
    for (const file of filesIn(/(128|256)[.]rsp$/, 'ciphers', 'AES', mode))
      for (const vector of vectorsIn('ciphers', 'AES', mode, file)) {
        holds(new Aes(keyIn(vector)), vector);
        count++;
      }
    expect(count).toBeGreaterThan(900);
  });

  it.each(['ECB', 'CBC'])('triple DES, %s: known answers, and messages of several blocks', (mode) => {
    let count = 0;
    for (const file of filesIn(
      /^T(ECB|CBC)(MMT\d|invperm|permop|subtab|varkey|vartext)[.]rsp$/,
      'ciphers',
      '3DES',
      mode,
    ))
      for (const vector of vectorsIn('ciphers', '3DES', mode, file)) {
        holds(new TripleDes(keyIn(vector)), vector);
        count++;
      }
    expect(count).toBeGreaterThan(300);
  });

  it.each([
    ['nist-800-38b-aes128.txt', 4],
    ['nist-800-38b-aes256.txt', 4],
    ['nist-800-38b-3des.txt', 8],
  ])('CMAC: %s', (file, least) => {
    const vectors = vectorsIn('CMAC', file);
    expect(vectors.length).toBeGreaterThanOrEqual(least);
    for (const vector of vectors) {
      const key = keyIn(vector);
      const cipher = file.includes('3des') ? new TripleDes(key) : new Aes(key);
      expect(hexOf(new Cmac(cipher).of(hex(vector.MESSAGE ?? '')))).toBe(vector.OUTPUT!.toUpperCase());
    }
  });

  it.each([
    '128',
    '256',
  ])('key wrap under AES-%s: what was wrapped comes out, and what was spoiled does not', (bits) => {
    for (const { K, P, C } of vectorsIn('keywrap', 'kwtestvectors', `KW_AE_${bits}.txt`).slice(0, 60))
      expect(hexOf(wrapped(hex(K!), hex(P!)))).toBe(C!.toUpperCase());
    const read = vectorsIn('keywrap', 'kwtestvectors', `KW_AD_${bits}.txt`).slice(0, 120);
    expect(read.some(({ FAIL }) => FAIL)).toBe(true);
    for (const { K, P, C, FAIL } of read)
      if (FAIL) expect(() => unwrapped(hex(K!), hex(C!))).toThrow('does not come out');
      else expect(hexOf(unwrapped(hex(K!), hex(C!)))).toBe(P!.toUpperCase());
  });
});
