/** Which single errors a proven prediction withstands, against making every one of them. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { met, runs, seedOr } from '../../testing/runs.ts';
import { catalogued } from '../catalogue/index.ts';
import { encode } from '../codec/index.ts';
import { identify, type SpecimenInput } from './index.ts';

const format = catalogued('26-8-16')!;
const card = (number: number, facility = '118'): SpecimenInput => ({
  bits: encode(format, { facility, number: String(number) }).toBinary(),
  printed: String(number),
});
const predicted = (cards: readonly SpecimenInput[], number: number) =>
  identify(cards, { library: [], predict: [String(number)], family: false });

describe('a proven prediction', () => {
  it('of neighbours whose prints may be exchanged unseen does not withstand that, and says which', () => {
    // 10000 to 10005: consecutive numbers make relations that cannot see every exchange inside them.
    const [found] = predicted(
      [0, 1, 2, 3, 4, 5].map((i) => card(10_000 + i)),
      10_006,
    ).predictions;
    expect(found).toMatchObject({ standing: 'proven' });
    expect(found!.withstands).not.toContain('exchanged pair');
    expect(found!.why).toMatch(/If .*the prints of cards \d and \d were exchanged, it would be otherwise/);
  });

  it('of two neighbours that were exchanged the case names them, though nothing contradicts it', () => {
    for (const at of [0, 1, 2, 3, 4]) {
      const cards = [0, 1, 2, 3, 4, 5].map((i) => card(10_000 + i));
      const [a, b] = [cards[at]!, cards[at + 1]!];
      cards[at] = { ...a, printed: b.printed! };
      cards[at + 1] = { ...b, printed: a.printed! };
      const { suspects } = predicted(cards, 10_050);
      expect(suspects[0]).toMatchObject({ kind: 'swapped pair', rows: [at + 1, at + 2] });
      if (at !== 2) continue;
      // The answer leads with what the cards say once that is put right.
      const given = identify(cards, { library: [format], range: { from: 10_000n, to: 10_199n } });
      const right = identify(
        [0, 1, 2, 3, 4, 5].map((i) => card(10_000 + i)),
        { library: [format], range: { from: 10_000n, to: 10_199n } },
      );
      expect(given.range).toEqual({ ...right.range, cards: expect.anything() });
      expect(given.assuming).toBe(given.suspects[0]!.words);
      expect(given.range!.cards.map(({ bits }) => bits)).toEqual(right.range!.cards.map(({ bits }) => bits));
    }
  });

  it('that hangs on one card withstands nothing that one card can have; of three an exchange changes no sum', () => {
    const [found] = predicted([card(16), card(17), card(18)], 19).predictions;
    expect(found).toMatchObject({ standing: 'proven', withstands: ['exchanged pair'] });
    expect(found!.why).toContain('If card 1 had a wrong print or were misread');
  });

  it('names a card whose reading shows an exchange that it does not withstand', () => {
    const numbers = [0, 1, 2, 3, 4, 5].map((i) => 10_000 + i);
    const cards = numbers.map((n) => card(n));
    const range = { from: 10_000n, to: 10_015n };
    const ask = (specimens: SpecimenInput[]) =>
      identify(specimens, { library: [], predict: ['10006'], range, family: false });
    const { why } = ask(cards).predictions[0]!;
    const [, a, b] = /cards (\d) and (\d) were exchanged/.exec(why)!.map(Number) as [number, number, number];
    const named = Number(/One more card, (\d+), would show the exchange/.exec(why)![1]);
    expect(numbers).not.toContain(named);
    const wrong = cards.map((one, i) => ({
      ...one,
      printed: cards[i === a - 1 ? b - 1 : i === b - 1 ? a - 1 : i]!.printed!,
    }));
    expect([ask(wrong).consistent, ask([...wrong, card(named)]).consistent]).toEqual([true, false]);
    expect(ask([...cards, card(named)]).consistent).toBe(true);
  });

  it('withstands what it says: every error of that kind shows, or changes nothing', () => {
    const some = fc.record({
      numbers: fc.uniqueArray(fc.integer({ min: 64, max: 95 }), { minLength: 5, maxLength: 9 }),
      asked: fc.integer({ min: 64, max: 95 }),
      wrong: fc.integer({ min: 64, max: 95 }),
      bit: fc.integer({ min: 0, max: 25 }),
    });
    let [held, broken] = [0, 0];
    fc.assert(
      fc.property(some, ({ numbers, asked, wrong, bit }) => {
        const cards = numbers.map((number) => card(number));
        const [found] = predicted(cards, asked).predictions;
        if (found!.standing !== 'proven') return;
        const differs = (changed: readonly SpecimenInput[]) => {
          const { consistent, predictions } = predicted(changed, asked);
          return consistent && predictions[0]!.bits !== null && predictions[0]!.bits !== found!.bits;
        };
        const changedAt = (i: number, part: Partial<SpecimenInput>) =>
          cards.map((one, k) => (k === i ? { ...one, ...part } : one));
        const pairs = cards.flatMap((a, i) =>
          cards
            .slice(i + 1)
            .map((b, k) =>
              cards.map((one, j) =>
                j === i ? { ...one, printed: b.printed } : j === i + 1 + k ? { ...one, printed: a.printed } : one,
              ),
            ),
        );
        const withstands = found!.withstands!;
        if (withstands.includes('exchanged pair')) {
          held++;
          for (const pair of pairs) expect(differs(pair)).toBe(false);
        } else {
          broken++;
        }
        const flipped = (bits: string) => `${bits.slice(0, bit)}${bits[bit] === '1' ? 0 : 1}${bits.slice(bit + 1)}`;
        for (let i = 0; i < cards.length; i++) {
          if (withstands.includes('wrong print')) expect(differs(changedAt(i, { printed: String(wrong) }))).toBe(false);
          if (withstands.includes('misread bit'))
            expect(differs(changedAt(i, { bits: flipped(cards[i]!.bits) }))).toBe(false);
          if (withstands.includes('other facility code'))
            expect(differs(changedAt(i, { bits: card(numbers[i]!, '119').bits }))).toBe(false);
        }
      }),
      { numRuns: runs(150), seed: seedOr(3) },
    );
    expect([held >= met(4), broken >= met(10)]).toEqual([true, true]);
  });
});

it('a box says how many more cards at most until all of it is proven, and any that are no sums do', () => {
  const cards = [card(10_000), card(10_003), card(10_012)];
  const range = { from: 10_000n, to: 10_063n };
  for (let left = identify(cards, { library: [], range }).range!.until; left > 0; left--) {
    const { range: box } = identify(cards, { library: [], range });
    expect(box!.until).toBe(left);
    cards.push(card(Number(box!.cards.find(({ standing }) => standing !== 'proven')!.number)));
  }
  expect(identify(cards, { library: [], range }).range).toMatchObject({ proven: 64, until: 0 });
});
