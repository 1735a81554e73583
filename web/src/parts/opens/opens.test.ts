import type { Card } from '@rawbits/api';
import { describe, expect, it } from 'vitest';
import { isAlarming, opensWords, otherWords } from './opens.ts';

const SHED = { id: 'd1', name: 'Boat shed' };
const card = (state: Card['state'], doors: (typeof SHED)[], loaded = { in: 1, of: 1 }, more: object = {}) => ({
  state,
  loaded,
  opens: { doors, asOther: [], unknownAt: [], ...more },
});

describe('what is said of a card and the doors', () => {
  it.each([
    [card('active', [SHED]), 'opens 1 door', false],
    [card('active', [SHED, { id: 'd2', name: 'Dock' }], { in: 0, of: 1 }), 'opens 2 doors; changes not loaded', true],
    [card('active', [], { in: 0, of: 1 }), 'opens none yet', true],
    [card('active', []), 'opens none', false],
    [card('active', [], { in: 0, of: 0 }), 'opens none: no controller accepts its format', false],
    [card('lost', [SHED], { in: 0, of: 1 }), 'STILL OPENS 1 door', true],
    [card('lost', [SHED]), 'STILL OPENS 1 door', true],
    [card('withdrawn', []), 'opens none', false],
    [card('in stock', []), 'opens none', false],
    [card('in stock', [SHED]), 'STILL OPENS 1 door', true],
    [card('lost', [], { in: 0, of: 1 }, { unknownAt: ['Shed'] }), 'opens none; not known at Shed', true],
  ])('%o: %s', (given, words, alarming) => {
    expect([opensWords(given), isAlarming(given)]).toEqual([words, alarming]);
  });

  it('as whom else its bits would be let in', () => {
    const asOther = [{ door: 'Boat shed', card: '3801588', holder: 'Isak', format: '26-0-24' }];
    expect(otherWords(card('lost', [SHED], { in: 1, of: 1 }, { asOther }))).toEqual([
      'Boat shed as 3801588, Isak, by 26-0-24',
    ]);
  });
});
