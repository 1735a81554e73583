import { describe, expect, it } from 'vitest';
import { Bits } from '../bits/index.ts';
import { catalogued } from '../catalogue/index.ts';
import { encode } from '../codec/index.ts';
import { renderings } from './index.ts';

const textOf = (bits: Bits) => Object.fromEntries(renderings(bits).map((r) => [r.id, r.text ?? r.unavailable]));

describe('the same read as other devices show it', () => {
  // Common practice, no source; figures worked out by hand from facility code 71 (47) and number 9034 (234A).
  it('26 bits', () => {
    expect(textOf(encode(catalogued('26-8-16')!, { facility: '71', number: '9034' }))).toMatchObject({
      'hex-right': '28E4694',
      'hex-left': 'A391A50',
      'decimal-inner': String(71 * 65536 + 9034),
      'low24-inner': '071,09034',
      'bytes-reversed': 'needs whole bytes; 26 bits are not',
      low32: 'needs 32 bits',
    });
  });

  it('a 4-byte UID', () => {
    expect(textOf(Bits.fromHex('04A23B1C'))).toMatchObject({
      'bytes-reversed': '1C3BA204',
      decimal: String(0x04a23b1c),
      'bytes-reversed-decimal': String(0x1c3ba204),
      low32: '0077740828',
      low24: `${0xa2},${0x3b1c}`,
      inverted: 'FB5DC4E3',
      'bits-reversed': '38DC4520',
    });
  });
});
