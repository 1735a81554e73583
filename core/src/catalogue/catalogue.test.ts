import BitSet from 'bitset';
import { describe, expect, it } from 'vitest';
import { Bits } from '../bits/index.ts';
import { decode, encode, greatestOf } from '../codec/index.ts';
import { labelOf, printLayoutLine, problemsOf } from '../format/index.ts';
import { CATALOGUE, catalogued } from './index.ts';

/**
 * The coverage of every parity bit, written out by hand as `[bit, sense, covered]`, not through the layout line.
 * Common practice, no source, but for 26-8-16 (SIA AC-01-1996.10).
 */
const span = (from: number, to: number) => Array.from({ length: to - from + 1 }, (_, i) => from + i);
const PARITY: Record<string, [number, 'even' | 'odd', number[]][]> = {
  '26-8-16': [
    [1, 'even', span(2, 13)],
    [26, 'odd', span(14, 25)],
  ],
  '26-0-24': [
    [1, 'even', span(2, 13)],
    [26, 'odd', span(14, 25)],
  ],
  '30-12-16': [
    [1, 'even', span(2, 13)],
    [30, 'odd', span(14, 29)],
  ],
  '33-7-24': [
    [1, 'even', span(2, 17)],
    [33, 'odd', span(17, 32)],
  ],
  '34-16-16': [
    [1, 'even', span(2, 17)],
    [34, 'odd', span(18, 33)],
  ],
  '34-0-32': [
    [1, 'even', span(2, 17)],
    [34, 'odd', span(18, 33)],
  ],
  '35-12-20': [
    [1, 'odd', span(2, 35)],
    [2, 'even', [3, 4, 6, 7, 9, 10, 12, 13, 15, 16, 18, 19, 21, 22, 24, 25, 27, 28, 30, 31, 33, 34]],
    [35, 'odd', [2, 3, 5, 6, 8, 9, 11, 12, 14, 15, 17, 18, 20, 21, 23, 24, 26, 27, 29, 30, 32, 33]],
  ],
  '36-8-2-24': [
    [1, 'odd', span(2, 18)],
    [36, 'odd', span(18, 35)],
  ],
  '37-16-19': [
    [1, 'even', span(2, 19)],
    [37, 'odd', span(19, 36)],
  ],
  '37-0-35': [
    [1, 'even', span(2, 19)],
    [37, 'odd', span(19, 36)],
  ],
  '48-22-23': [
    [1, 'odd', span(2, 48)],
    [
      2,
      'even',
      [
        4, 5, 7, 8, 10, 11, 13, 14, 16, 17, 19, 20, 22, 23, 25, 26, 28, 29, 31, 32, 34, 35, 37, 38, 40, 41, 43, 44, 46,
        47,
      ],
    ],
    [
      48,
      'odd',
      [
        3, 4, 6, 7, 9, 10, 12, 13, 15, 16, 18, 19, 21, 22, 24, 25, 27, 28, 30, 31, 33, 34, 36, 37, 39, 40, 42, 43, 45,
        46,
      ],
    ],
  ],
  '58-0-56': [
    [1, 'even', span(2, 29)],
    [58, 'odd', span(30, 57)],
  ],
  '75-federal': [
    [1, 'even', span(2, 38)],
    [75, 'odd', span(39, 74)],
  ],
};

/** A multiplicative sequence, to vary the values without randomness. */
const sample = (greatest: bigint, i: number): string =>
  String((BigInt(i) * 6364136223846793005n + 1442695040888963407n) % (greatest + 1n));

describe('every format of the catalogue', () => {
  it('is sound, claims all its bits and says where it comes from', () => {
    for (const format of CATALOGUE) {
      expect(problemsOf(format), format.id).toEqual([]);
      expect(format.source, format.id).toMatch(/^(common practice, no source|from memory|SIA AC-01|NIST technical)/);
    }
    expect(new Set(CATALOGUE.map((f) => f.id)).size).toBe(20);
    expect(new Set(CATALOGUE.map(printLayoutLine)).size).toBe(20);
  });

  it('has the parity that counting with the registry library "bitset" gives', () => {
    for (const format of CATALOGUE) {
      const wanted = PARITY[format.id] ?? [];
      expect(format.spans.filter((s) => s.role === 'parity').length, format.id).toBe(wanted.length);
      for (let i = 0; i < 40; i++) {
        const values = Object.fromEntries(
          format.spans.flatMap((s) => (labelOf(s) === undefined ? [] : [[labelOf(s)!, sample(greatestOf(s), i)]])),
        );
        const bits = encode(format, values);
        const set = new BitSet();
        for (let p = 1; p <= bits.length; p++) set.set(p, bits.at(p));
        for (const [at, sense, covers] of wanted) {
          const ones = new BitSet(covers).and(set).cardinality() + set.get(at);
          expect(ones % 2, `${format.id} bit ${at}`).toBe(sense === 'odd' ? 1 : 0);
        }
        expect(decode(bits, format)).toMatchObject({ fit: 'full', values });
      }
    }
  });

  it('shows every single wrong parity bit', () => {
    for (const id of Object.keys(PARITY)) {
      const format = catalogued(id)!;
      const bits = encode(
        format,
        Object.fromEntries(format.spans.flatMap((s) => (labelOf(s) ? [[labelOf(s)!, '3']] : []))),
      );
      for (const [at] of PARITY[id]!) {
        const wrong = Bits.build(bits.length, (p) => (bits.at(p) === 1) !== (p === at));
        expect(decode(wrong, format).parity.find((p) => p.at === at)!.holds, `${id} bit ${at}`).toBe(false);
      }
    }
  });
});

describe('published examples', () => {
  // NIST technical guidance for smart-card enabled access control: the worked FASC-N of agency 0032, system 0001,
  // credential 092446, series 0, issue 1, person 1112223333, category 1, organisation 1223, association 2 (from memory).
  it('the 200-bit FASC-N', () => {
    const bits = encode(catalogued('200-fascn')!, {
      agency: '0032',
      system: '0001',
      credential: '092446',
      series: '0',
      issue: '1',
      person: '1112223333',
      category: '1',
      organisation: '1223',
      association: '2',
    });
    expect(bits.toHex()).toBe('D0439458210C2C19A0846D83685A1082108CE73984108CA3FC');
  });

  // Common practice, no source: both 37-bit formats show the same small number when the facility code is 0.
  it('two 37-bit formats agree on a small number and part ways on a greater', () => {
    const [split, whole] = [catalogued('37-16-19')!, catalogued('37-0-35')!];
    expect(encode(split, { facility: '0', number: '4711' }).equals(encode(whole, { number: '4711' }))).toBe(true);
    expect(() => encode(split, { facility: '0', number: '600000' })).toThrow('above 524287');
  });

  it('a 4-byte UID, both ways', () => {
    const number = String(0x04a23b1c);
    expect(encode(catalogued('32-0-32')!, { number }).toHex()).toBe('04A23B1C');
    expect(encode(catalogued('32r-0-32')!, { number }).toHex()).toBe('1C3BA204');
  });
});
