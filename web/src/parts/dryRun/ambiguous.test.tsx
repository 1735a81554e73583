/** What becomes ambiguous: counted, the gravest first, each reading with whose card it would be. */
import { cleanup, render, screen } from '@testing-library/react';
import { afterEach, expect, it } from 'vitest';
import { rows } from '../../testing/rows.ts';
import { Ambiguous } from './Ambiguous.tsx';

afterEach(cleanup);

type Found = Parameters<typeof Ambiguous>[0]['found'];
const own = (id: string, name: string, holder?: string): Found['examples'][number] => ({
  kind: 'cards',
  id,
  name,
  holder,
  bits: '0',
  place: 'Main building',
  meanings: [
    { format: '26-8-16', number: name.split('/')[1]!, facility: '58', card: { id, name, holder } },
    { format: '26-0-24', number: '3811321', facility: null, card: null },
  ],
});
it('first what would be taken for somebody else’s card, then the cards that somebody holds', () => {
  const others = own('c3', '58/7', 'Isak Fjelde');
  others.meanings[1] = { ...others.meanings[1]!, card: { id: 'c9', name: '3811321', holder: 'Ragna Holm' } };
  const examples = [own('c1', '58/5'), own('c2', '58/6', 'Mikkel Aune'), others];
  render(<Ambiguous found={{ cards: 3, reads: 1, examples }} />);
  screen.getByText('3 cards and 1 read become ambiguous');
  expect(rows()).toEqual([
    ['58/7Isak Fjelde', 'Main building', '26-8-16: 58/7 this card26-0-24: 3811321 the card of Ragna Holm'],
    ['58/6Mikkel Aune', 'Main building', '26-8-16: 58/6 this card26-0-24: 3811321 no card there'],
    ['58/5', 'Main building', '26-8-16: 58/5 this card26-0-24: 3811321 no card there'],
  ]);
});

it('a read that is one person’s card alone is no warning, and stands behind what is', () => {
  const read: Found['examples'][number] = { ...own('r1', '58/7'), kind: 'reads', name: '' };
  read.meanings[0] = { ...read.meanings[0]!, card: { id: 'c3', name: '58/7', holder: 'Isak Fjelde' } };
  render(<Ambiguous found={{ cards: 1, reads: 1, examples: [read, own('c2', '58/6', 'Mikkel Aune')] }} />);
  expect(rows().map(([first]) => first)).toEqual(['58/6Mikkel Aune', '0']);
  expect(screen.getByText('the card of Isak Fjelde').className).not.toContain('signal');
});

it('of many the first fifty are shown, and said to be; of none nothing', () => {
  const many = Array.from({ length: 60 }, (_, i) => own(`c${i}`, `58/${i}`));
  const { rerender } = render(<Ambiguous found={{ cards: 60, reads: 0, examples: many }} />);
  expect(rows().length).toBe(50);
  screen.getByText('The first 50 are shown.');
  rerender(<Ambiguous found={{ cards: 0, reads: 0, examples: [] }} />);
  expect(screen.queryByTestId('ambiguous')).toBeNull();
});

it('one card is told as one', () => {
  render(<Ambiguous found={{ cards: 1, reads: 0, examples: [own('c1', '58/5')] }} />);
  screen.getByText('1 card becomes ambiguous');
});
