/** Reads whose length nobody knows: their leading zeros were lost. Hidden formats from a seed; common practice, no source. */
import { describe, expect, it } from 'vitest';
import { hiddenFormat, randomFrom } from '../../testing/hiddenFormats.ts';
import { isWhole, met, seeds } from '../../testing/runs.ts';
import { CATALOGUE, catalogued } from '../catalogue/index.ts';
import { encode } from '../codec/index.ts';
import type { Format } from '../format/index.ts';
import { identify, type SpecimenInput } from './index.ts';

const lost = (bits: string) => bits.replace(/^0+(?=.)/, '');
const numberOf = (bits: string) => BigInt(`0b${bits}`);

interface Hidden {
  bitsOf(number: bigint): string;
  numberBits: number;
}

/** Of the family, up to 64 bits: half of the library, half made from a seed. */
function hiddenOf(random: () => number): Hidden | undefined {
  if (random() < 0.5) {
    const ids = ['26-8-16', '33-7-24', '34-16-16', '35-12-20', '37-16-19', '48-22-23', '32-0-32'];
    const format = catalogued(ids[Math.floor(random() * ids.length)]!) as Format;
    const facility: Record<string, string> =
      format.id === '32-0-32' ? {} : { facility: String(1 + Math.floor(random() * 100)) };
    return {
      numberBits: Number(format.id.split('-').at(-1)),
      bitsOf: (number) => encode(format, { number: String(number), ...facility }).toBinary(),
    };
  }
  const hidden = hiddenFormat(random, { facilities: 1, scattered: false });
  const [facility] = hidden.facilities as [bigint];
  const bitsOf = (number: bigint) => hidden.bitsOf(number, facility).toBinary();
  return hidden.isOfFamily && bitsOf(1n).length <= 64 ? { numberBits: hidden.numberBits, bitsOf } : undefined;
}

describe('reads without their leading zeros', () => {
  it('nothing is wrongly proven or settled, few cards or many, consecutive or not; and with enough cards much is', () => {
    let [cases, proven, settled, open] = [0, 0, 0, 0];
    for (const seed of seeds(20, 3000)) {
      const random = randomFrom(seed);
      const hidden = hiddenOf(random);
      if (!hidden) continue;
      cases++;
      const reach = 2 ** Math.min(hidden.numberBits, 30);
      const first = Math.floor(random() * Math.max(1, reach - 200));
      const count = 3 + Math.floor(random() * 10);
      const isInOrder = random() < 0.3;
      const numbers = new Set<number>();
      while (numbers.size < count)
        numbers.add(first + (isInOrder ? numbers.size : Math.floor(random() * Math.min(200, reach))));
      const specimens = [...numbers].map(
        (number): SpecimenInput => ({
          bits: lost(hidden.bitsOf(BigInt(number))),
          printed: String(number),
          lengthKnown: false,
        }),
      );
      const finding = identify(specimens, {
        library: CATALOGUE,
        range: { from: BigInt(first), to: BigInt(first + Math.min(200, reach - first) - 1) },
      });
      for (const { number, standing, bits } of finding.range!.cards) {
        if (standing === 'open') open++;
        if (standing !== 'proven' && standing !== 'settled') continue;
        if (standing === 'proven') proven++;
        else settled++;
        expect([seed, number, standing, numberOf(bits!)]).toEqual([
          seed,
          number,
          standing,
          numberOf(hidden.bitsOf(BigInt(number))),
        ]);
      }
    }
    console.log(`lengths: ${cases} cases, ${proven} cards proven, ${settled} settled, ${open} open, none wrong`);
    expect([cases >= met(8), proven >= met(300), isWhole || settled > 0]).toEqual([true, true, true]);
  });

  it('of three cards what adds up is proven, and nothing that they do not tell is settled', () => {
    // One leading bit that is 0 on both cards: parity of 27 bits, or none at all.
    const bitsOf = (n: number) => encode(catalogued('26-8-16')!, { facility: '3', number: String(n) }).toBinary();
    const finding = identify(
      [30_000, 30_003, 30_005].map((n) => ({ bits: lost(bitsOf(n)), printed: String(n), lengthKnown: false })),
      { library: CATALOGUE, predict: ['30006', '30015'] },
    );
    expect(finding.predictions[0]).toMatchObject({ standing: 'proven' });
    expect(finding.predictions[1]!.standing).not.toBe('settled');
    expect(finding.range!.family!.size).toMatch(/^\d\.\de\d+$/);
  });
});
