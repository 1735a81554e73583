/** The box on the screen: the sentence that the answer leads with, and each card by the cursor. */
import type { BoxCard, BoxFinding } from '@rawbits/core/identify';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, it } from 'vitest';
import { boxInWords } from '../../parts/strip/boxInWords.ts';
import { Box, cardInWords } from './Box.tsx';

afterEach(cleanup);
// The browser has one; here nothing is ever laid out.
globalThis.ResizeObserver ??= class {
  observe() {}
  unobserve() {}
  disconnect() {}
};

const card = (number: number, standing: BoxCard['standing'], odds: number | null = 1): BoxCard => ({
  number: String(number),
  standing,
  odds,
  bits: standing === 'open' ? null : number.toString(2),
});
const RANGE: BoxFinding = {
  from: '118400',
  to: '118403',
  given: false,
  of: '4',
  cards: [card(118400, 'proven'), card(118401, 'settled'), card(118402, 'likely', 0.9731), card(118403, 'open', 0.4)],
  proven: 1,
  settled: 1,
  likely: 1,
  open: 1,
  until: 3,
  family: { size: '6.1e31', survivors: '2' },
};

it('leads with how many cards stand how far', () => {
  expect(boxInWords(RANGE)).toBe(
    'Of the 4 cards 118,400 to 118,403 the bits of 1 are proven, 1 settled, 1 likely, 1 open.',
  );
  expect(boxInWords({ ...RANGE, of: '9000', proven: 0, open: 0 })).toBe(
    'Of the 9,000 cards 118,400 to 118,403, of which 4 are listed, the bits of none are proven, 1 settled, 1 likely, none open.',
  );
});

it.each([
  [card(5, 'settled'), 'Card 5: settled.'],
  [{ ...card(5, 'proven'), row: 3 }, 'Card 5: proven. It is specimen 3.'],
  [card(5, 'likely', 0.9731), 'Card 5: likely, with 97 %.'],
  [card(5, 'likely', 0.99995), 'Card 5: likely, with over 99.99 %.'],
  [card(5, 'open', 0.404), 'Card 5: open, the likeliest bits are so with 40 %.'],
  [card(5, 'open', null), 'Card 5: open.'],
] as const)('%j is said so', (one, words) => {
  expect(cardInWords(one)).toBe(words);
});

it('asks why the card under the cursor stands so', async () => {
  const asked: string[] = [];
  render(<Box range={RANGE} onWhy={(number) => asked.push(number)} />);
  screen.getByRole('slider', { name: 'Cards of the box' }).focus();
  await userEvent.keyboard('{ArrowRight}{ArrowRight}');
  await userEvent.click(screen.getByRole('button', { name: 'why' }));
  expect(asked).toEqual(['118402']);
});

it('by the arrow keys each card is said, with its bits where they stand', async () => {
  render(<Box range={RANGE} />);
  const strip = screen.getByRole('slider', { name: 'Cards of the box' });
  strip.focus();
  expect(strip.getAttribute('aria-valuetext')).toBe('Card 118400: proven.');
  await userEvent.keyboard('{ArrowRight}{ArrowRight}');
  expect(screen.getByTestId('box-card').textContent).toContain(
    `Card 118402: likely, with 97 %.${(118402).toString(2)}`,
  );
  await userEvent.keyboard('{End}');
  expect(strip.getAttribute('aria-valuetext')).toBe('Card 118403: open, the likeliest bits are so with 40 %.');
  expect(screen.getByTestId('box-card').textContent).toContain('2 of about 6.1 × 10^31 formats are left');
});
