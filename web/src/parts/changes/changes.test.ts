import type { TrailEntry } from '@rawbits/api';
import { describe, expect, it } from 'vitest';
import { differingFields } from './difference.ts';
import { sentenceOf } from './sentences.ts';

const entry = (action: string, subject: string, after?: unknown, before?: unknown): TrailEntry => ({
  name: 'entry-1',
  seq: 1,
  at: '2026-06-30T22:30:00.000Z',
  operator: 'Tormod Vik',
  action,
  subject,
  before,
  after,
});

describe('the trail', () => {
  it.each([
    [entry('card issued', 'card 2214/118406', { holder: 'Oline Strand' }), 'issued card 2214/118406 to Oline Strand'],
    [entry('card entered', 'card 58/7', { holder: null }), 'put card 58/7 in stock'],
    [entry('card changed', 'card 58/7', { state: 'lost' }, { state: 'active' }), 'set card 58/7 from active to lost'],
    [
      entry(
        'card changed',
        'card 58/7',
        { state: 'active', notes: 'bent', validTo: null },
        { state: 'active', notes: '', validTo: 'x' },
      ),
      'changed the last day and notes of card 58/7',
    ],
    [
      entry('controller loaded', 'controller Boat shed', { formats: ['26-8-16'], cards: 3 }),
      'loaded Boat shed: 1 format and 3 cards are in force',
    ],
    [entry('accepted formats changed', 'controller Boat shed', ['26-8-16']), 'let Boat shed accept 26-8-16'],
    [entry('accepted formats changed', 'controller X', { formats: [], dryRun: {} }), 'let X accept nothing'],
    [entry('operator’s role changed', 'operator gro', ['viewer']), 'made gro viewer'],
    [
      entry('schedule changed', 'schedule Nights', { losses: [{ people: 3 }], breaks: ['The shed'] }, {}),
      'changed the schedule Nights: 3 people lost a door by it, broke “The shed” knowingly',
    ],
    [
      entry('access groups changed', 'cardholder Ragna Holm', { groups: ['Divers'] }, { groups: [] }),
      'put Ragna Holm into Divers, before nothing',
    ],
    [entry('something of a later version', 'thing 1'), 'something of a later version, thing 1'],
    [entry('card issued', 'card 1', 'damaged'), 'issued card 1'],
  ])('%j is told as "%s"', (of, sentence) => expect(sentenceOf(of)).toBe(sentence));

  it('shows only the fields that differ', () => {
    expect(differingFields({ state: 'active', notes: '' }, { state: 'lost', notes: '', seen: 1 })).toEqual([
      { field: 'state', before: 'active', after: 'lost' },
      { field: 'seen', before: undefined, after: '1' },
    ]);
    expect(differingFields(null, ['a'])).toEqual([{ field: 'value', before: undefined, after: '["a"]' }]);
  });
});
