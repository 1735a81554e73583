/** Proximity tags: the published example, and what a reader sees of a tag that is set up rightly or wrongly. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { catalogued } from '../catalogue/index.ts';
import { encode } from '../codec/index.ts';
import {
  blankTag,
  CARRIER,
  carrierBits,
  carrierTag,
  configurationIn,
  configurationOf,
  demodulate,
  FSK,
  type Fsk,
  findTag,
  identificationTag,
  MODULATIONS,
  modulate,
  readCarrier,
  readTag,
  sendingOf,
  shifted,
  stringHeard,
  type TagMemory,
  tagBits,
  tagHeard,
  unshifted,
  writeTag,
} from './index.ts';

const DATA = 0x06001259e3n;
const data = fc.bigInt({ min: 0n, max: (1n << 40n) - 1n });
/** What a reader for 64-bit tags at this rate makes of a tag. */
const seen = (tag: TagMemory, rate: number) => {
  const signal = sendingOf(tag);
  return signal && tagHeard(signal, { rate, modulation: 'manchester' });
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
    expect(seen(tag, 64)).toBe(DATA);
    expect(seen(tag, 32)).toBeUndefined();
    expect(seen(identificationTag(DATA, 32), 32)).toBe(DATA);
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

describe('the carrier of a Wiegand string', () => {
  const string = fc.stringMatching(/^[01]{1,37}$/);
  // The open 26-bit format, facility code 118, number 1603: the word as the trade remembers it [mem].
  const OPEN = (0x2ec0c86).toString(2).padStart(26, '0');

  it('2006EC0C86: the open format’s 118/1603, and the configuration word 00107060 [from memory]', () => {
    const inner = carrierBits(OPEN).slice(8).replace(/(.)./g, '$1');
    expect(BigInt(`0b${inner}`).toString(16).toUpperCase()).toBe('2006EC0C86');
    expect(carrierTag(OPEN).blocks[0]!.toString(16).padStart(8, '0')).toBe('00107060');
    expect(encode(catalogued('26-8-16')!, { facility: '118', number: '1603' }).toBinary()).toBe(OPEN);
  });

  it('comes back, whatever its length, by way of what is on the air', () => {
    fc.assert(
      fc.property(string, (bits) => {
        expect(readCarrier(carrierBits(bits))).toBe(bits);
        expect(stringHeard(sendingOf(carrierTag(bits))!)).toBe(bits);
      }),
      { numRuns: 40 },
    );
    expect(() => carrierBits('1'.repeat(38))).toThrow('1 to 37 bits');
  });

  it('is not seen by a reader of another rate or modulation, nor by one for the other kind of tag', () => {
    const signal = sendingOf(carrierTag(OPEN))!;
    for (const rate of [32, 40, 64]) expect(stringHeard(signal, { ...CARRIER, rate })).toBeUndefined();
    for (const modulation of ['fsk1', 'fsk2', 'fsk1a', 'manchester', 'biphase'] as const)
      expect(stringHeard(signal, { ...CARRIER, modulation })).toBeUndefined();
    expect(tagHeard(signal)).toBeUndefined();
    expect(stringHeard(sendingOf(identificationTag(DATA))!)).toBeUndefined();
  });

  it.each(Object.keys(FSK) as Fsk[])('%s: bits come back from the levels of the coil', (kind) => {
    fc.assert(
      fc.property(fc.stringMatching(/^[01]{1,60}$/), fc.constantFrom(40, 50, 64), (bits, rate) => {
        expect(unshifted(shifted(bits, kind, rate), kind, rate)).toBe(bits);
      }),
    );
  });
});
