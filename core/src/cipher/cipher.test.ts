/** Ciphers against node:crypto, and against the vectors of their standards. */
import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  Aes,
  bytesOf,
  Cmac,
  cbcDecrypt,
  cbcEncrypt,
  fromLittleEndian,
  hexOf,
  littleEndian,
  TripleDes,
} from './index.ts';

const hex = (text: string) => bytesOf(text, 'test');
const bytes = (length: number) => fc.uint8Array({ minLength: length, maxLength: length });

describe('a block', () => {
  // FIPS 197, Appendix C.1 and C.3.
  it.each([
    ['000102030405060708090A0B0C0D0E0F', '69C4E0D86A7B0430D8CDB78070B4C55A'],
    ['000102030405060708090A0B0C0D0E0F101112131415161718191A1B1C1D1E1F', '8EA2B7CA516745BFEAFC49904B496089'],
  ])('AES under %s', (key, wanted) => {
    const block = hex('00112233445566778899AABBCCDDEEFF');
    new Aes(hex(key)).encrypt(block);
    expect(hexOf(block)).toBe(wanted);
    new Aes(hex(key)).decrypt(block);
    expect(hexOf(block)).toBe('00112233445566778899AABBCCDDEEFF');
  });

  it('triple DES: NIST SP 800-67, Appendix B.1', () => {
    const block = hex('5468652071756663 6B2062726F776E20 666F78206A756D70');
    const cipher = new TripleDes(hex('0123456789ABCDEF 23456789ABCDEF01 456789ABCDEF0123'));
    for (const at of [0, 8, 16]) cipher.encrypt(block, at);
    expect(hexOf(block)).toBe('A826FD8CE53B855FCCE21C8112256FE668D5C05DD9B6B900');
  });

  it.each([
    ['aes-128', 16, 16, 16],
    ['aes-256', 32, 32, 16],
    ['des-ede', 16, 16, 8],
    ['des-ede3', 24, 24, 8],
    // DES alone is what triple DES is under one key three times.
    ['des-ede3', 8, 24, 8],
  ])('%s with a key of %i bytes is that of node:crypto, chained and undone', (name, keyBytes, theirs, size) => {
    fc.assert(
      fc.property(bytes(keyBytes), bytes(size), fc.integer({ min: 1, max: 9 }), (key, iv, blocks) => {
        const clear = randomBytes(blocks * size);
        const whole = Uint8Array.from({ length: theirs }, (_, i) => key[i % keyBytes]!);
        const reference = createCipheriv(`${name}-cbc`, whole, iv).setAutoPadding(false);
        const cipher = size === 16 ? new Aes(key) : new TripleDes(key);
        const enciphered = cbcEncrypt(cipher, iv, clear);
        expect(hexOf(enciphered)).toBe(hexOf(Buffer.concat([reference.update(clear), reference.final()])));
        expect(hexOf(cbcDecrypt(cipher, iv, enciphered))).toBe(hexOf(clear));
        const back = createDecipheriv(`${name}-cbc`, whole, iv).setAutoPadding(false);
        expect(hexOf(Buffer.concat([back.update(enciphered), back.final()]))).toBe(hexOf(clear));
      }),
      { numRuns: 60 },
    );
  });

  it('a key of another length is refused', () => {
    expect(() => new Aes(new Uint8Array(15))).toThrow('not 15');
    expect(() => new TripleDes(new Uint8Array(10))).toThrow('not 10');
    expect(() => cbcEncrypt(new Aes(new Uint8Array(16)), new Uint8Array(16), new Uint8Array(17))).toThrow('17 bytes');
  });
});

describe('CMAC', () => {
  const MESSAGE =
    '6BC1BEE22E409F96E93D7E117393172AAE2D8A571E03AC9C9EB76FAC45AF8E5130C81C46A35CE411E5FBC1191A0A52EFF69F2445DF4F9B17AD2B417BE66C3710';
  // NIST SP 800-38B, examples for AES-128 and three-key triple DES; RFC 4493 §4 has the first four, too.
  it.each([
    ['2B7E151628AED2A6ABF7158809CF4F3C', 0, 'BB1D6929E95937287FA37D129B756746'],
    ['2B7E151628AED2A6ABF7158809CF4F3C', 16, '070A16B46B4D4144F79BDD9DD04A287C'],
    ['2B7E151628AED2A6ABF7158809CF4F3C', 40, 'DFA66747DE9AE63030CA32611497C827'],
    ['2B7E151628AED2A6ABF7158809CF4F3C', 64, '51F0BEBF7E3B9D92FC49741779363CFE'],
    ['8AA83BF8CBDA10620BC1BF19FBB6CD58BC313D4A371CA8B5', 0, 'B7A688E122FFAF95'],
    ['8AA83BF8CBDA10620BC1BF19FBB6CD58BC313D4A371CA8B5', 8, '8E8F293136283797'],
    ['8AA83BF8CBDA10620BC1BF19FBB6CD58BC313D4A371CA8B5', 20, '743DDBE0CE2DC2ED'],
    ['8AA83BF8CBDA10620BC1BF19FBB6CD58BC313D4A371CA8B5', 32, '33E6B1092400EAE5'],
    ['4CF15134A2850DD58A3D10BA80570D38', 0, 'BD2EBF9A3BA00361'],
    ['4CF15134A2850DD58A3D10BA80570D38', 8, '4FF2AB813C53CE83'],
  ])('under %s of %i bytes', (key, length, wanted) => {
    const cipher = key.length === 32 && wanted.length === 32 ? new Aes(hex(key)) : new TripleDes(hex(key));
    expect(hexOf(new Cmac(cipher).of(hex(MESSAGE).subarray(0, length)))).toBe(wanted);
  });

  it('goes on from a vector as if that had been a block before', () => {
    const mac = new Cmac(new Aes(hex('2B7E151628AED2A6ABF7158809CF4F3C')));
    const first = hex(MESSAGE).slice(0, 16);
    const vector = first.slice();
    mac.cipher.encrypt(vector);
    expect(hexOf(mac.of(hex(MESSAGE).subarray(16, 40), vector))).toBe(hexOf(mac.of(hex(MESSAGE).subarray(0, 40))));
  });
});

describe('bytes', () => {
  it('come back as they were written, the least significant first', () => {
    fc.assert(fc.property(fc.integer({ min: 0, max: 2 ** 48 - 1 }), (n) => fromLittleEndian(littleEndian(n, 6)) === n));
    expect(hexOf(littleEndian(0x1234, 3))).toBe('341200');
  });

  it.each([
    ['0G', 'hex', 2],
    ['123', 'hex', undefined],
    ['1234', 'bytes', undefined],
  ])('"%s" is refused', (text, code, column) => {
    try {
      bytesOf(text, 'key', 3);
      expect.unreachable();
    } catch (error) {
      expect(error).toMatchObject({ code, where: { field: 'key', ...(column && { column }) } });
    }
  });
});
