/** Formats with an additive sum: bits that carry, which no exclusive or gives. Made from a seed; common practice, no source. */
import { describe, expect, it } from 'vitest';
import { randomFrom } from '../../testing/hiddenFormats.ts';
import { met, runs, seeds } from '../../testing/runs.ts';
import { CATALOGUE } from '../catalogue/index.ts';
import { encode } from '../codec/index.ts';
import { parseLayoutLine } from '../format/index.ts';
import { identify } from './index.ts';

interface Hidden {
  line: string;
  bitsOf: (number: number) => string;
}

/** A sum of nibbles or bytes, or its two's complement, before or behind what it is over. */
function hiddenSum(random: () => number): Hidden {
  const width = random() < 0.5 ? 4 : 8;
  const method = `sum${width}${random() < 0.5 ? '(complement)' : ''}`;
  const line =
    random() < 0.5
      ? `${32 + width} | 1-8 facility | 9-32 number | 33-${32 + width} check ${method} 1-32`
      : `${32 + width} | 1-${width} check ${method} ${width + 1}-${width + 32} | ${width + 1}-${width + 8} facility | ${width + 9}-${width + 32} number`;
  const layout = parseLayoutLine(line);
  const facility = String(1 + Math.floor(random() * 254));
  return { line, bitsOf: (number) => encode(layout, { facility, number: String(number) }).toBinary() };
}

describe('an additive sum', () => {
  it('nothing is wrongly settled, nor proven where the family is heard, few cards or many, consecutive or not; no card is suspected', () => {
    let [sure, settled] = [0, 0];
    for (const seed of seeds(40)) {
      const random = randomFrom(seed);
      const { line, bitsOf } = hiddenSum(random);
      const first = 1000 + Math.floor(random() * 800_000);
      const count = 2 + Math.floor(random() * 11);
      const isInOrder = random() < 0.3;
      const numbers = new Set<number>();
      while (numbers.size < count) numbers.add(first + (isInOrder ? numbers.size : Math.floor(random() * 100)));
      const finding = identify(
        [...numbers].map((number) => ({ bits: bitsOf(number), printed: String(number) })),
        { library: CATALOGUE, range: { from: BigInt(first), to: BigInt(first + 99) } },
      );
      expect([seed, line, finding.consistent, finding.suspects]).toEqual([seed, line, true, []]);
      for (const { number, standing, bits } of finding.range!.cards) {
        // Of two or three cards too many places are left to hear the family: proven is then on the algebra's assumption alone.
        const isHeard = finding.range!.family !== null;
        if (standing !== 'settled' && !(standing === 'proven' && isHeard)) continue;
        sure++;
        if (standing === 'settled') settled++;
        expect([seed, line, number, bits]).toEqual([seed, line, number, bitsOf(Number(number))]);
      }
    }
    console.log(`sums: ${sure} of ${runs(40) * 100} cards proven or settled, ${settled} of them settled, none wrong`);
    expect(settled).toBeGreaterThan(met(200));
  });

  it('twelve cards well apart settle a box, and the sum is what the answer rests on', () => {
    const layout = parseLayoutLine('40 | 1-8 check sum8(complement) 9-40 | 9-16 facility | 17-40 number');
    const bitsOf = (number: number) => encode(layout, { facility: '77', number: String(number) }).toBinary();
    const numbers = [118401, 118402, 118404, 118408, 118416, 118432, 118464, 118528, 118533, 118590, 118447, 118571];
    const finding = identify(
      numbers.map((number) => ({ bits: bitsOf(number), printed: String(number) })),
      { library: CATALOGUE, range: { from: 118400n, to: 118599n }, predict: ['118455'] },
    );
    expect(finding.range).toMatchObject({ settled: 200, likely: 0, open: 0 });
    expect(finding.predictions[0]).toMatchObject({ standing: 'settled', bits: bitsOf(118455) });
    expect(finding.assumptions.at(-1)).toContain('bits 1 to 8 are check sum8(complement) over bits 9 to 40');
    expect(finding.layouts.map(({ layout }) => layout)).toContainEqual(expect.stringContaining('sum8(complement)'));
  });
});
