/** A sheet as it is drawn: a review holds for the rows that were reviewed, and for no others. */
import { sheetApi } from '@rawbits/api';
import { fireEvent, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { giveSizes, SITE, show } from '../../../testing/page.tsx';
import { stockServer } from '../../../testing/stock.ts';
import { SheetScreen } from './SheetScreen.tsx';

const typed = (text: string) =>
  fireEvent.change(screen.getByLabelText(/A sheet of cards, pasted/), { target: { value: text } });

it('a row that was changed after the review is reviewed again, were there as many digits as before', async () => {
  giveSizes();
  const server = stockServer()
    .on(sheetApi.review, { site: SITE }, () => ({
      good: 2,
      held: 0,
      inStock: 2,
      newHolders: { count: 0, names: [] },
      bad: [],
    }))
    .on(sheetApi.enter, { site: SITE }, () => ({ cards: 2, newHolders: 0 }));
  const user = userEvent.setup();
  show(<SheetScreen />, { at: 'stock/sheet', path: 'stock/sheet' });
  await screen.findByLabelText(/A sheet of cards, pasted/);
  typed('number\n11000\n11001');
  await user.click(await screen.findByRole('button', { name: 'Review 2 rows' }));
  expect(await screen.findByRole('button', { name: 'Enter 2 cards' })).toBeTruthy();
  typed('number\n11000\n11009');
  await user.click(await screen.findByRole('button', { name: 'Review 2 rows' }));
  await user.click(await screen.findByRole('button', { name: 'Enter 2 cards' }));
  const sent = () => server.asked.filter(({ line }) => line === `POST /sites/${SITE}/sheets`);
  await waitFor(() => expect(sent()).toHaveLength(1));
  expect(sent()[0]!.body).toMatchObject({ good: 2, rows: [{ number: '11000' }, { number: '11009' }] });
});
