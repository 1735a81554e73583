import { describe, expect, it } from 'vitest';
import { Bits } from '../bits/index.ts';
import { CATALOGUE, catalogued } from '../catalogue/index.ts';
import { type Layout, parseLayoutLine } from '../format/index.ts';
import { adviceOn, capacityOf, decode, sharedCards, structureOf } from './index.ts';

const line = parseLayoutLine;
const OPEN_26 = catalogued('26-8-16')!;

describe('structure', () => {
  it('is the same however a format is written', () => {
    const base = structureOf(line('16 | 1-8 facility | 9-16 number'));
    expect(structureOf(line('16 | 9-16 number | 1-8 facility'))).toBe(base);
    expect(structureOf(line('16b | 16-9 facility | 8-1 number'))).toBe(base);
    expect(structureOf(line('16r | 9-16 facility | 1-8 number'))).toBe(base);
    expect(structureOf(line('16i | 1-8 facility | 9-16 number'))).not.toBe(base);
    // Parity over everything, its own bit last or first, is one and the same equation.
    const even = structureOf(line('8 | 1 even 2-8 | 2-7 number'));
    expect(structureOf(line('8 | 8 even 1-7 | 2-7 number'))).toBe(even);
    expect(structureOf(line('8 | 8 odd 1-7 | 2-7 number'))).not.toBe(even);
  });

  it('shares agree with counting every string, on small formats', () => {
    const layouts = [
      '8 | 1 even 2-8 | 2-8 number',
      '8 | 1-2 facility | 3-8 number',
      '8 | 1 odd 2-4 | 2-7 number | 8 even 5-7',
      '8i | 1-4 facility | 5-8 number',
      '8 | 1-2 fixed 10 | 3-8 number',
      '8b | 1-8 number',
      '8 | 1 even 2-7 | 2-7 number',
    ].map(line);
    for (const mine of layouts)
      for (const other of layouts) expect(sharedCards(mine, other)).toEqual(counted(mine, other));
  });
});

/** By brute force: every string of 8 bits. */
function counted(mine: Layout, other: Layout) {
  let [own, both, same] = [0, 0, 0];
  for (let value = 0; value < 256; value++) {
    const bits = Bits.fromBigInt(BigInt(value), 8);
    const [a, b] = [decode(bits, mine), decode(bits, other)];
    if (a.fit !== 'full') continue;
    own++;
    if (b.fit !== 'full') continue;
    both++;
    if (a.values.number === b.values.number) same++;
  }
  const power = (n: number) => (n === 0 ? null : Math.log2(own / n));
  return { fits: power(both), sameNumber: power(same) };
}

describe('advice', () => {
  const codes = (text: string) => adviceOn(line(text), CATALOGUE).map((a) => a.code);

  it('finds the commonest slip: coverage off by one bit', () => {
    const [slip] = adviceOn(line('26 | 1 even 2-12 | 2-9 facility | 10-25 number | 26 odd 14-25'), CATALOGUE);
    expect(slip).toMatchObject({ code: 'coverage', severity: 'warning', positions: [13] });
    expect(codes('40 | 1 even 2-21 | 2-39 number | 40 odd 21-39')).toContain('coverage');
    expect(codes('40 | 1 even 2-20 | 2-39 number | 40 odd 21-39')).not.toContain('coverage');
  });

  it('knows the same bits under another name, and not a format as its own twin', () => {
    expect(codes('26b | 26 even 25-14 | 25-18 facility | 17-2 number | 1 odd 13-2')).toContain('same');
    expect(adviceOn(OPEN_26, CATALOGUE, { self: '26-8-16' }).map((a) => a.code)).not.toContain('same');
  });

  // DOMAIN §2, common practice: with facility code 0 both 37-bit formats show the printed number.
  it('says which other format the same cards fit, and how many with the same number', () => {
    const [also] = adviceOn(catalogued('37-16-19')!, CATALOGUE, { self: '37-16-19', facilities: [0n, 2214n] });
    expect(also!.message).toBe(
      '37 bits, number only (37-0-35) also fits every card of this format, and shows the same number on one card in 65,536; with facility code 0, on every card.',
    );
  });

  it('names decimal digits that never occur, and how easily a card is copied', () => {
    expect(codes('20 | 1-8 facility bcd | 9-20 number')).toEqual(['never', 'copied']);
  });
});

describe('capacity', () => {
  it('of the open 26-bit format: 256 facility codes, 65,536 numbers', () => {
    expect(capacityOf(OPEN_26)).toMatchObject({ facilityCodes: 256n, numbers: 65536n, cards: 16777216n });
    expect(capacityOf(line('20 | 1-8 facility bcd | 9-20 number')).facilityCodes).toBe(100n);
  });
});
