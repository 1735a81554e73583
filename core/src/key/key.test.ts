/** Keys: diversification from its note's worked examples, check values, components, wrap. */
import { createCipheriv, randomBytes } from 'node:crypto';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Aes, bytesOf, Cmac, hexOf, joined } from '../cipher/index.ts';
import {
  assertParity,
  assertStrong,
  checkValueOf,
  combined,
  Diversifier,
  diversifyData,
  keyOf,
  parityHolds,
  splitUp,
  unwrapped,
  versionIn,
  weaknessesOf,
  withParity,
  withVersion,
  wrapped,
} from './index.ts';

const hex = (text: string) => bytesOf(text, 'test');

describe('diversification', () => {
  const K = '00112233445566778899AABBCCDDEEFF';

  it('AES-128: NXP AN10922, the worked example of §2.2', () => {
    const data = diversifyData(hex('04782E21801D80'), hex('3042F5'), hex('4E585020416275'));
    const { key, k1, k2, steps } = new Diversifier('aes128', hex(K)).explain(data);
    expect(hexOf(key)).toBe('A8DD63A3B89D54B37CA802473FDA9175');
    // The subkeys of the same example.
    expect([hexOf(k1), hexOf(k2)]).toEqual(['FBC9F75C9413C041DFEE452D3F0706D1', 'F793EEB928278083BFDC8A5A7E0E0D25']);
    expect(hexOf(steps[0]!.padded)).toBe(
      '0104782E21801D803042F54E58502041627580000000000000000000000000'.padEnd(64, '0'),
    );
  });

  it('two-key triple DES: the worked example of §2.3, with version 55 set (from memory, recomputed)', () => {
    const key = new Diversifier('tdes2', hex(K)).keyFor(hex('04782E21801D803042F54E58502041'));
    expect(hexOf(withVersion(key, 0x55))).toBe('16F9587D9E8910C96B9648D006107DD7');
    expect(versionIn(withVersion(key, 0x55))).toBe(0x55);
  });

  it('three-key triple DES: the worked example of §2.4 (from memory, recomputed)', () => {
    const key = new Diversifier('tdes3', hex(`${K}0102030405060708`)).keyFor(hex('04782E21801D803042F54E5850'));
    expect(hexOf(key)).toBe('2F0DD03675D3FB9A5705AB0BDA91CA0B55B8E07FCDBF10EC');
  });

  it('AES from 16 bytes of data on is the CMAC of constant and data; with fewer it is not', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ minLength: 16, maxLength: 16 }),
        fc.uint8Array({ minLength: 1, maxLength: 31 }),
        (key, data) => {
          const mac = hexOf(new Cmac(new Aes(key)).of(joined([1], data)));
          const diversified = hexOf(new Diversifier('aes128', key).keyFor(data));
          expect(diversified === mac).toBe(data.length >= 16);
        },
      ),
    );
  });

  it('by hand with node:crypto: constant and data, padded, the last block combined with the subkey', () => {
    for (const [kind, name, size] of [
      ['tdes2', 'des-ede-cbc', 8],
      ['aes128', 'aes-128-cbc', 16],
    ] as const) {
      const [key, data] = [randomBytes(16), randomBytes(9)];
      const { steps, k1, k2 } = new Diversifier(kind, key).explain(data);
      expect(k1).not.toEqual(k2);
      for (const { enciphered, part } of steps) {
        const cipher = createCipheriv(name, key, new Uint8Array(size)).setAutoPadding(false);
        expect(hexOf(cipher.update(enciphered).subarray(-size))).toBe(hexOf(part));
      }
    }
  });

  it.each([
    ['aes128', 32],
    ['tdes2', 16],
    ['tdes3', 16],
    ['tdes3', 0],
  ] as const)('%s with %i bytes of data is refused', (kind, length) => {
    const key = new Uint8Array(kind === 'tdes3' ? 24 : 16);
    expect(() => new Diversifier(kind, key).keyFor(new Uint8Array(length))).toThrow(`have ${length} bytes together`);
  });
});

describe('a check value', () => {
  it.each([
    // The first bytes of published vectors: FIPS 197's zero block is in NIST's KAT; CMAC of nothing in RFC 4493 §4.
    ['aes128', '2B7E151628AED2A6ABF7158809CF4F3C', 'cmac', 'BB1D69'],
    ['aes128', '00000000000000000000000000000000', 'zeros', '66E94B'],
    // A block of zeros under DES keys of zeros: 8CA64DE9C1B123A7, in NIST SP 500-20's tables.
    ['tdes2', '00000000000000000000000000000000', 'zeros', '8CA64D'],
    ['tdes3', '8AA83BF8CBDA10620BC1BF19FBB6CD58BC313D4A371CA8B5', 'cmac', 'B7A688'],
  ] as const)('%s %s by %s is %s', (kind, key, of, wanted) => {
    expect(checkValueOf(kind, hex(key), of)).toBe(wanted);
  });

  it('does not tell the parity or version of a triple DES key', () => {
    const key = randomBytes(16);
    expect(checkValueOf('tdes2', withVersion(key, 7))).toBe(checkValueOf('tdes2', withParity(key)));
  });
});

describe('components', () => {
  it('make the key again, all together and in any order; the rest of them may be anything', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 16, maxLength: 16 }), fc.integer({ min: 2, max: 5 }), (key, count) => {
        const parts = splitUp(key, count, randomBytes((count - 1) * 16));
        expect(parts).toHaveLength(count);
        expect(hexOf(combined(parts.toReversed()))).toBe(hexOf(key));
      }),
    );
    expect(() => combined([new Uint8Array(16)])).toThrow('at least 2 components');
    expect(() => combined([new Uint8Array(16), new Uint8Array(8)])).toThrow('different lengths');
    expect(() => splitUp(new Uint8Array(16), 6, new Uint8Array(80))).toThrow('not 6');
  });
});

describe('wrapping', () => {
  // RFC 3394 §4.1 and §4.6.
  it.each([
    [
      '000102030405060708090A0B0C0D0E0F',
      '00112233445566778899AABBCCDDEEFF',
      '1FA68B0A8112B447AEF34BD8FB5A7B829D3E862371D2CFE5',
    ],
    [
      '000102030405060708090A0B0C0D0E0F101112131415161718191A1B1C1D1E1F',
      '00112233445566778899AABBCCDDEEFF000102030405060708090A0B0C0D0E0F',
      '28C9F404C4B810F4CBCCB35CFB87F8263F5786E2D80ED326CBC7F0E71A99F43BFB988B9B7A02DD21',
    ],
  ])('under %s', (wrapping, key, wanted) => {
    expect(hexOf(wrapped(hex(wrapping), hex(key)))).toBe(wanted);
    expect(hexOf(unwrapped(hex(wrapping), hex(wanted)))).toBe(key);
    const other = hex(wanted);
    other[3]! ^= 1;
    expect(() => unwrapped(hex(wrapping), other)).toThrow('wrapped under another key, or is damaged');
  });
});

describe('a key that nobody should use', () => {
  it.each([
    ['aes128', '00'.repeat(16), /same/],
    ['aes128', '000102030405060708090A0B0C0D0E0F', /count/],
    ['sector', 'FFFFFFFFFFFF', /same/],
    ['tdes2', '0123456789ABCDEF'.repeat(2), /Two of its parts/],
    // To DES the lowest bits are nothing: these two parts are one.
    ['tdes2', '0123456789ABCDEF0022446688AACCEE', /Two of its parts/],
    // NIST SP 800-67 §3.4.2: weak, and semi-weak.
    ['tdes3', '1F1F1F1F0E0E0E0E23456789ABCDEF01456789ABCDEF0123', /weak key of DES/],
    ['tdes3', 'FE01FE01FE01FE0123456789ABCDEF01456789ABCDEF0123', /weak key of DES/],
    ['tdes3', 'E01FE01FF10EF10E23456789ABCDEF01456789ABCDEF0123', /weak key of DES/],
  ] as const)('%s %s', (kind, key, why) => {
    expect(weaknessesOf(kind, hex(key)).join(' ')).toMatch(why);
    expect(() => assertStrong(kind, hex(key))).toThrow('weak key');
  });

  it('one from a good source is not among them', () => {
    for (const kind of ['aes128', 'tdes2', 'tdes3'] as const)
      for (let i = 0; i < 200; i++) expect(weaknessesOf(kind, randomBytes(kind === 'tdes3' ? 24 : 16))).toEqual([]);
  });

  it('of even parity is told at its byte (FIPS 46-3), where its cipher has one', () => {
    expect(() => assertParity('tdes2', hex('0123456789ABCDEF0023456789ABCDEF'))).toThrow(
      'Byte 9 has an even number of ones',
    );
    assertParity('tdes2', hex('0123456789ABCDEF0123456789ABCDEF'));
    assertParity('aes128', new Uint8Array(16));
  });

  it('its length and its parity are told', () => {
    expect(() => keyOf('tdes3', '00'.repeat(16))).toThrow('key has 16 bytes, not 24');
    expect([parityHolds(hex('0123456789ABCDEF')), parityHolds(hex('0023456789ABCDEF'))]).toEqual([true, false]);
    fc.assert(fc.property(fc.uint8Array({ minLength: 8, maxLength: 24 }), (key) => parityHolds(withParity(key))));
  });
});
