/** The card to read next is of the box, and following it settles the box within ten cards, as the estimate says. */
import { describe, expect, it } from 'vitest';
import { CATALOGUE, catalogued } from '../catalogue/index.ts';
import { encode } from '../codec/index.ts';
import { identify, type SpecimenInput } from './index.ts';

const range = { from: 118_400n, to: 118_499n };
const card = (format: string, number: number): SpecimenInput => ({
  bits: encode(catalogued(format)!, { facility: '214', number: String(number) }).toBinary(),
  printed: String(number),
});

describe('the card to read next', () => {
  it.each(['37-16-19', '35-12-20'])('of %s is one of the box that was not read; ten settle it', (format) => {
    const read = [118_437];
    for (;;) {
      const specimens = read.map((number) => card(format, number));
      const { range: box, tieBreaker } = identify(specimens, { library: CATALOGUE, range });
      const open = box!.open + box!.likely;
      for (const { number, bits, standing } of box!.cards)
        if (standing === 'proven' || standing === 'settled') expect(bits).toBe(card(format, Number(number)).bits);
      if (open === 0) break;
      expect(read.length).toBeLessThan(10);
      const next = Number(tieBreaker!.printed);
      expect([next >= 118_400 && next <= 118_499, read.includes(next)]).toEqual([true, false]);
      if (tieBreaker!.gain !== undefined) expect(tieBreaker!.gain).toBeGreaterThan(0);
      read.push(next);
    }
    // What was said after five of them is about what it took.
    const five = read.slice(0, 5).map((number) => card(format, number));
    const { tieBreaker } = identify(five, { library: CATALOGUE, range, until: true });
    expect(Math.abs(tieBreaker!.until! - (read.length - 5))).toBeLessThanOrEqual(3);
    // In whatever order they were read.
    const turned = identify(five.toReversed(), { library: CATALOGUE, range });
    expect(turned.tieBreaker!.gain).toBeCloseTo(tieBreaker!.gain!, 6);
    expect(turned.range!.cards.map(({ standing }) => standing)).toEqual(
      identify(five, { library: CATALOGUE, range }).range!.cards.map(({ standing }) => standing),
    );
  });

  it('is of those at hand where only some are there', () => {
    const specimens = [118_437, 118_462, 118_401, 118_490].map((number) => card('37-16-19', number));
    const atHand = ['118437', '118463', '118444'];
    const { tieBreaker } = identify(specimens, { library: CATALOGUE, range, atHand });
    expect(['118463', '118444']).toContain(tieBreaker!.printed);
  });
});
