import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyLayout } from '../../testing/anyLayout.ts';
import { Bits } from '../bits/index.ts';
import { type Layout, labelOf, parseLayoutLine, printLayoutLine } from '../format/index.ts';
import { decode, encode, fitsOf, greatestOf, ownOrder, sharedCards, structureOf, testEquations } from './index.ts';

const OPEN_26 = parseLayoutLine('26 | 1 even 2-13 | 2-9 facility | 10-25 number | 26 odd 14-25');

describe('decode(encode(x)) = x', () => {
  it('for random layouts up to 512 bits and random values', () => {
    fc.assert(
      fc.property(anyLayout, fc.array(fc.bigInt(0n, 1n << 80n), { minLength: 8, maxLength: 8 }), (layout, seeds) => {
        const values: Record<string, string> = {};
        layout.spans.forEach((span, i) => {
          const label = labelOf(span);
          if (label !== undefined) values[label] = String(seeds[i % 8]! % (greatestOf(span) + 1n));
        });
        const decoded = decode(encode(layout, values), layout);
        expect(decoded.fit).toBe('full');
        expect(decoded.values).toEqual(
          layout.facility === undefined ? values : { ...values, facility: layout.facility },
        );
      }),
      { numRuns: 300 },
    );
  });

  it('encode(decode(read)) is the read, where every bit is claimed and all holds', () => {
    fc.assert(
      fc.property(fc.nat(255), fc.nat(65535), (facility, number) => {
        const bits = encode(OPEN_26, { facility: String(facility), number: String(number) });
        expect(encode(OPEN_26, decode(bits, OPEN_26).values).equals(bits)).toBe(true);
      }),
    );
  });
});

const withFlipped = (bits: Bits, places: readonly number[]) =>
  bits.xor(Bits.build(bits.length, (p) => places.includes(p)));

describe('what a read is tested for', () => {
  it('fails just when one of its equations, counted bit by bit, does not hold', () => {
    fc.assert(
      fc.property(anyLayout, fc.array(fc.nat(511), { maxLength: 2 }), (layout, places) => {
        const values = Object.fromEntries(
          layout.spans.flatMap((span) => (labelOf(span) ? [[labelOf(span)!, '0']] : [])),
        );
        const bits = withFlipped(
          encode(layout, values),
          places.map((p) => 1 + (p % layout.bits)),
        );
        const fails = testEquations(layout).some(({ mask, constant }) => {
          const picked = [...mask].map((word) => word.toString(2).padStart(32, '0')).join('');
          return [...bits.toBinary()].filter((bit, i) => bit === '1' && picked[i] === '1').length % 2 !== constant;
        });
        const { parity, checks } = decode(bits, layout);
        const own = [...parity, ...checks.filter(({ kind }) => kind !== 'digits')];
        expect(own.some(({ holds }) => !holds)).toBe(fails);
      }),
      { numRuns: 300 },
    );
  });

  it.each([
    { reverseBytes: false, reverseBits: false, invert: false },
    { reverseBytes: true, reverseBits: false, invert: false },
    { reverseBytes: false, reverseBits: true, invert: true },
  ])('characters beside one another with a bit changed, %j', (arrives) => {
    const layout: Layout = { bits: 200, spans: [{ role: 'number', at: '4-183', written: 'char5' }], arrives };
    const read = encode(layout, { number: '123456789012345678901234567890123456' });
    expect(decode(read, layout).fit).toBe('full');
    for (let p = 1; p <= 200; p++) {
      const inside = ownOrder(withFlipped(read, [p]), layout).slice(4, 183);
      const wrong = [...inside.toBinary().matchAll(/.{5}/g)].filter(
        ([character]) => character.replaceAll('0', '').length % 2 === 0,
      );
      const { checks } = decode(withFlipped(read, [p]), layout);
      expect([p, checks.some(({ kind, holds }) => kind === 'characters' && !holds)]).toEqual([p, wrong.length > 0]);
    }
  });
});

describe('parity of the open 26-bit format', () => {
  // SIA AC-01-1996.10: leading parity even over the first 12 data bits, trailing parity odd over the last 12.
  it('agrees with counting ones in text', () => {
    for (const [facility, number] of [
      [0, 0],
      [255, 65535],
      [71, 9034],
      [1, 1],
      [128, 32768],
    ] as const) {
      const data = facility.toString(2).padStart(8, '0') + number.toString(2).padStart(16, '0');
      const ones = (text: string) => text.replace(/0/g, '').length;
      const lead = ones(data.slice(0, 12)) % 2;
      const trail = 1 - (ones(data.slice(12)) % 2);
      const bits = encode(OPEN_26, { facility: String(facility), number: String(number) });
      expect(bits.toBinary()).toBe(`${lead}${data}${trail}`);
    }
  });
});

describe('fits', () => {
  const good = encode(OPEN_26, { facility: '71', number: '9034' });
  const flip = (bits: Bits, ...at: number[]) => Bits.build(bits.length, (p) => (bits.at(p) === 1) !== at.includes(p));

  it('full, with every parity result', () => {
    expect(decode(good, OPEN_26)).toEqual({
      fit: 'full',
      reason: 'The length agrees and all 2 checks hold.',
      values: { facility: '71', number: '9034' },
      parity: [
        { at: 1, holds: true },
        { at: 26, holds: true },
      ],
      checks: [],
    });
  });

  it('part, naming the parity that fails', () => {
    const decoded = decode(flip(good, 26), OPEN_26);
    expect(decoded).toMatchObject({ fit: 'part', reason: 'Parity bit 26 (odd over 14-25) fails.' });
    expect(decoded.parity).toEqual([
      { at: 1, holds: true },
      { at: 26, holds: false },
    ]);
  });

  it('none when nothing but the length agrees, or not even that', () => {
    expect(decode(flip(good, 1, 26), OPEN_26).fit).toBe('none');
    expect(decode(Bits.fromBinary('101'), OPEN_26)).toMatchObject({
      fit: 'none',
      reason: 'The read has 3 bits, the format 26.',
    });
  });

  it('decimal digits may stand lowest first: the same card as with its digits taken the other way round', () => {
    const low = parseLayoutLine('20 | 1-4 fixed 1010 | 5-20 number bcd-low');
    // 1 2 3 4 as 4, 3, 2, 1: written out by hand.
    expect(encode(low, { number: '1234' }).toBinary()).toBe('1010 0100 0011 0010 0001'.replace(/ /g, ''));
    expect(decode(encode(low, { number: '7089' }), low)).toMatchObject({ fit: 'full', values: { number: '7089' } });
    expect(decode(Bits.fromBinary('10100100001110100001'), low).fit).not.toBe('full');
    const listed = parseLayoutLine('20 | 1-4 fixed 1010 | 17-20,13-16,9-12,5-8 number bcd');
    expect(structureOf(low)).toBe(structureOf(listed));
    expect(printLayoutLine(low)).toBe('20 | 1-4 fixed 1010 | 5-20 number bcd-low');
  });

  it('fixed bits, a check and a decimal digit above 9 are named', () => {
    const layout = parseLayoutLine('24 | 1-4 fixed 1010 | 5-16 number bcd | 17-24 check xor8 1-16');
    const bits = encode(layout, { number: '407' });
    expect(bits.toHex()).toBe('A407A3'); // A4 xor 07 = A3, by hand
    expect(decode(bits, layout).fit).toBe('full');
    expect(decode(Bits.fromHex('B407B3'), layout).reason).toBe('Bits 1-4 are not 1010.');
    expect(decode(Bits.fromHex('A4A703'), layout).reason).toBe('Number holds a digit above 9.');
    expect(decode(Bits.fromHex('A407A2'), layout).reason).toBe('The check at 17-24 fails.');
  });

  it('are sorted best first; the format with more to test comes before', () => {
    const formats = [
      '26 | 1-26 number',
      '26 | 1 even 2-13 | 2-25 number | 26 even 14-25',
      '26 | 1 even 2-13 | 2-25 number | 26 odd 14-25',
    ].map((line, i) => ({
      schema: 'rawbits/format@1' as const,
      id: `f${i}`,
      name: `f${i}`,
      ...parseLayoutLine(line),
    }));
    // A format stored before empty runs were refused says nothing, and does not take the others with it.
    const unsound = { ...formats[0]!, id: 'unsound', spans: [{ role: 'number' as const, at: '10-11 by 3 to 1' }] };
    expect(fitsOf(good, [unsound], true)).toEqual([]);
    expect(fitsOf(good, formats).map((f) => [f.format.id, f.fit])).toEqual([
      ['f2', 'full'],
      ['f0', 'full'],
      ['f1', 'part'],
    ]);
  });
});

describe('exactness', () => {
  it('a 512-bit number comes back to the digit', () => {
    const layout = parseLayoutLine('512 | 1-512 number');
    const greatest = ((1n << 512n) - 1n).toString();
    expect(decode(encode(layout, { number: greatest }), layout).values.number).toBe(greatest);
  });

  it('2^53 + 1 is not rounded', () => {
    const layout = parseLayoutLine('64 | 1-64 number');
    expect(decode(encode(layout, { number: '9007199254740993' }), layout).values.number).toBe('9007199254740993');
  });
});

describe('how the bits arrive', () => {
  it('bytes reversed: the least significant byte of the number comes first', () => {
    expect(encode(parseLayoutLine('32r | 1-32 number'), { number: String(0x04a23b1c) }).toHex()).toBe('1C3BA204');
    expect(encode(parseLayoutLine('8b | 1-8 number'), { number: '1' }).toBinary()).toBe('10000000');
    expect(encode(parseLayoutLine('8i | 1-8 number'), { number: '1' }).toBinary()).toBe('11111110');
  });
});

describe('values that cannot be encoded', () => {
  it.each([
    [{ facility: '256', number: '1' }, 'facility 256 is above 255'],
    [{ facility: '1' }, 'The value "number" is missing'],
    [{ facility: '1', number: '1', issue: '2' }, 'The format has no value "issue"'],
    [{ facility: '1', number: '-3' }, '"-3" is not a decimal number'],
  ])('%j', (values, message) => {
    expect(() => encode(OPEN_26, values as Record<string, string>)).toThrow(message);
  });

  it('another facility code than the one that belongs to the format', () => {
    const layout = parseLayoutLine('16 | 1-16 number | facility = 4100');
    expect(encode(layout, { number: '7', facility: '4100' }).toHex()).toBe('0007');
    expect(() => encode(layout, { number: '7', facility: '41' })).toThrow('facility code is always 4100');
  });
});

describe('checks that are no exclusive or', () => {
  // 12 + A3 + 45 is FA; its two's complement 06: by hand. The modulo-10 digit: ISO/IEC 7812-1 annex B, 7992739871 and 3 [mem].
  it.each([
    ['32 | 1-24 number | 25-32 check sum8 1-24', '1221445', 'FA'],
    ['32 | 1-24 number | 25-32 check sum8(complement) 1-24', '1221445', '06'],
    ['28 | 1-24 number | 25-28 check sum4 1-24', '1221445', '9'],
    ['44 | 1-40 number bcd | 41-44 check mod10 1-40', '7992739871', '3'],
  ])('%s: %s has %s', (line, number, check) => {
    const layout = parseLayoutLine(line);
    const bits = encode(layout, { number });
    expect(bits.toHex().slice(-check.length)).toBe(check);
    expect(printLayoutLine(layout)).toBe(line);
  });

  it.each([
    '',
    'i',
    'b',
    'r',
  ])('hold for what was encoded and fail for any other value of theirs, arriving %s', (how) => {
    fc.assert(
      fc.property(
        fc.constantFrom('sum8', 'sum8(complement)', 'sum4', 'mod10'),
        fc.integer({ min: 0, max: 999_999 }),
        fc.integer({ min: 1, max: 15 }),
        (method, number, wrong) => {
          const own = method.startsWith('sum8') ? 8 : 4;
          const bits = own === 8 ? 32 : 28;
          // Bytes are reversed in whole ones only.
          const arrives = bits === 28 && how === 'r' ? '' : how;
          const layout = parseLayoutLine(`${bits}${arrives} | 1-24 number bcd | 25-${bits} check ${method} 1-24`);
          const sent = encode(layout, { number: String(number) });
          expect(decode(sent, layout)).toMatchObject({ fit: 'full', values: { number: String(number) } });
          const plain = ownOrder(sent, layout);
          const turned = Bits.build(bits, (p) => plain.at(p) ^ (p > bits - 4 ? (wrong >> (bits - p)) & 1 : 0));
          const other = decode(ownOrder(turned, layout), layout);
          expect(other.fit).toBe('part');
          expect(other.checks).toContainEqual({ kind: 'check', at: `25-${bits}`, holds: false });
        },
      ),
    );
  });

  it('part formats that are otherwise alike, and count as what they leave out', () => {
    const of = (method: string) => parseLayoutLine(`32 | 1-24 number | 25-32 check ${method} 1-24`);
    expect(structureOf(of('sum8'))).not.toBe(structureOf(of('sum8(complement)')));
    expect(structureOf(of('sum8'))).toBe(structureOf(of('sum8')));
    expect(sharedCards(parseLayoutLine('32 | 1-24 number'), of('sum8'))).toEqual({ fits: 8, sameNumber: 8 });
    expect(sharedCards(of('sum8'), of('sum8'))).toEqual({ fits: 0, sameNumber: 0 });
  });

  it.each(['sum8(foo) 1-24', 'sum33 1-24', 'mod11 1-24', 'sum8 1-23'])('check %s is refused', (text) => {
    expect(() => encode(parseLayoutLine(`40 | 1-24 number | 25-32 check ${text}`), { number: '1' })).toThrow();
  });
});
