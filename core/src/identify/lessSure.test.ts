/** Nothing that follows from an explanation is surer than it. */
import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { PredictionFinding } from './finding.ts';
import { lessSure, standingWith } from './lessSure.ts';

const standings = fc.constantFrom('proven', 'settled', 'likely', 'open', 'presumed') as fc.Arbitrary<
  PredictionFinding['standing']
>;
const ORDER = { open: 0, presumed: 0, likely: 1, settled: 2, proven: 2 };

it('a standing never rises, and odds are at most the certainty of what is likely with it', () => {
  fc.assert(
    fc.property(
      standings,
      fc.double({ min: 0, max: 1, noNaN: true }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      (standing, odds, certainty) => {
        const own = standing === 'proven' || standing === 'settled' ? 1 : odds;
        const told = standingWith(standing, own, certainty);
        expect(ORDER[told.standing]).toBeLessThanOrEqual(ORDER[standing]);
        expect(told.odds!).toBeLessThanOrEqual(own);
        if (told.standing === 'likely') expect(told.odds!).toBeLessThanOrEqual(certainty);
        if (certainty < 0.95) expect(['proven', 'settled']).not.toContain(told.standing);
      },
    ),
  );
});

it('a prediction that is no more than open loses its bits and what it withstands, and says why', () => {
  const found: PredictionFinding = {
    printed: '7',
    bits: '01',
    standing: 'proven',
    odds: 1,
    rival: null,
    checks: 1,
    withstands: ['wrong print'],
    why: 'It adds up.',
  };
  const told = lessSure(found, { certainty: 0.6, words: 'Card 2 may be misread.' });
  expect(told).toEqual({
    printed: '7',
    bits: null,
    standing: 'open',
    odds: 0.6,
    rival: 'Card 2 may be misread.',
    checks: 1,
    why: 'It adds up. But so sure it is not: Card 2 may be misread.',
  });
  expect(lessSure(found, undefined)).toBe(found);
  expect(lessSure(found, { certainty: 0.97, words: '' })).toEqual(found);
});
