/** Proximity tags: the published example, and what a reader sees of a tag that is set up rightly or wrongly. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  blankTag,
  configurationIn,
  configurationOf,
  demodulate,
  findTag,
  identificationTag,
  MODULATIONS,
  modulate,
  readTag,
  sendingOf,
  type TagMemory,
  tagBits,
  writeTag,
} from './index.ts';

const DATA = 0x06001259e3n;
const data = fc.bigInt({ min: 0n, max: (1n << 40n) - 1n });
/** What a reader for 64-bit tags at this rate makes of a tag. */
const seen = (tag: TagMemory, rate: number) => {
  const signal = sendingOf(tag);
  const bits = signal && demodulate(signal, 'manchester', rate);
  return bits && findTag(bits);
};

describe('the 64-bit tag', () => {
  it('06001259E3: column parity 0100 (EM4100, published example), FF818000CAA974C8 in whole [computed]', () => {
    const bits = tagBits(DATA);
    expect(bits.slice(59, 63)).toBe('0100');
    expect(BigInt(`0b${bits}`).toString(16).toUpperCase()).toBe('FF818000CAA974C8');
    expect(readTag(bits)).toEqual({ data: DATA, version: 6, number: 0x001259e3 });
  });

  it('comes back, and any one wrong bit is noticed', () => {
    fc.assert(
      fc.property(data, fc.integer({ min: 0, max: 63 }), (value, at) => {
        const bits = tagBits(value);
        expect(readTag(bits)?.data).toBe(value);
        const wrong = bits.slice(0, at) + (bits[at] === '1' ? '0' : '1') + bits.slice(at + 1);
        expect(readTag(wrong)).toBeUndefined();
      }),
    );
    expect(() => tagBits(1n << 40n)).toThrow('40 bits');
  });

  it('is found wherever the stream was begun to be heard, and either way round', () => {
    fc.assert(
      fc.property(data, fc.integer({ min: 0, max: 63 }), fc.boolean(), (value, from, inverted) => {
        const stream = tagBits(value).repeat(4).slice(from);
        const heard = inverted ? [...stream].map((bit) => (bit === '1' ? '0' : '1')).join('') : stream;
        // Some tags hold another's beginning within themselves; what is found then is at least one that fits.
        expect(findTag(heard)).toBeDefined();
      }),
    );
    expect(findTag('10'.repeat(100))).toBeUndefined();
  });
});

describe('modulation', () => {
  it.each(MODULATIONS)('%s comes back at its own rate and modulation, begun at any half-bit of a bit', (modulation) => {
    fc.assert(
      fc.property(fc.stringMatching(/^[01]{16,200}$/), fc.constantFrom(32, 64), (bits, rate) => {
        expect(demodulate(modulate(bits, modulation, rate), modulation, rate)).toBe(bits);
      }),
    );
  });
});

describe('the rewritable tag', () => {
  // The configuration words that the trade remembers for the 64-bit tag [mem, CHIPS].
  it.each([
    [64, false, '00148040'],
    [32, false, '00088040'],
    [64, true, '00148050'],
  ] as const)('RF/%i, password %s: %s', (rate, hasPassword, word) => {
    const value = configurationOf({ rate, modulation: 'manchester', lastBlock: 2, hasPassword });
    expect(value.toString(16).padStart(8, '0')).toBe(word);
    expect(configurationIn(value)).toEqual({ rate, modulation: 'manchester', lastBlock: 2, hasPassword });
  });

  it('is seen by a reader of its rate and modulation, and by no other', () => {
    const tag = identificationTag(DATA);
    expect(seen(tag, 64)).toMatchObject({ data: DATA });
    expect(seen(tag, 32)).toBeUndefined();
    expect(seen(identificationTag(DATA, 32), 32)).toMatchObject({ data: DATA });
    expect(seen(identificationTag(DATA, 32), 64)).toBeUndefined();
    writeTag(tag, 0, configurationOf({ rate: 64, modulation: 'biphase', lastBlock: 2, hasPassword: false }));
    expect(seen(tag, 64)).toBeUndefined();
    // Set up to send one block too few.
    writeTag(tag, 0, configurationOf({ rate: 64, modulation: 'manchester', lastBlock: 1, hasPassword: false }));
    expect(seen(tag, 64)).toBeUndefined();
    expect(seen(blankTag(), 64)).toBeUndefined();
  });

  it('keeps to its locks and its password', () => {
    const tag = blankTag();
    expect(writeTag(tag, 3, 0xdeadbeef, { lock: true })).toBeUndefined();
    expect(writeTag(tag, 3, 0)).toBe('locked');
    expect(tag.blocks[3]).toBe(0xdeadbeef);
    writeTag(tag, 7, 0x12345678);
    writeTag(tag, 0, configurationOf({ rate: 64, modulation: 'manchester', lastBlock: 2, hasPassword: true }));
    expect(writeTag(tag, 1, 1)).toBe('password');
    expect(writeTag(tag, 1, 1, { password: 0x12345678 })).toBeUndefined();
    expect(writeTag(tag, 8, 1)).toBe('no such block');
    expect(() => configurationOf({ rate: 33, modulation: 'manchester', lastBlock: 2, hasPassword: false })).toThrow(
      'RF/33',
    );
  });
});
