/** Stock as it is drawn: many cards, many holders, and a form that keeps what was typed. */
import { cardApi } from '@rawbits/api';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it } from 'vitest';
import { giveSizes, SITE, type StandIn, show } from '../../testing/page.tsx';
import { card, stockServer } from '../../testing/stock.ts';
import { StockScreen } from './StockScreen.tsx';

describe('stock', () => {
  let server: StandIn;
  beforeEach(() => {
    giveSizes();
    server = stockServer();
  });

  /** The field of the facility code, once it is known that the format has one. */
  const facility = async () => {
    const field = (await screen.findByLabelText('Facility code')) as HTMLInputElement;
    await waitFor(() => expect(field.disabled).toBe(false));
    return field;
  };

  it('of a million cards those in sight are drawn, and each says which row it is', async () => {
    show(<StockScreen />, { at: 'stock', path: 'stock/:card?' });
    expect(await screen.findByText(/1,000,000 cards/)).toBeTruthy();
    const table = screen.getByRole('table');
    await waitFor(() => expect(within(table).getAllByRole('row').length).toBeGreaterThan(10));
    expect(within(table).getAllByRole('row').length).toBeLessThan(60);
    expect(table.getAttribute('aria-rowcount')).toBe('1000001');
    expect(within(table).getByText('7').closest('tr')!.getAttribute('aria-rowindex')).toBe('9');
  });

  it('a holder is found by name among many, and stays chosen whoever is looked for then', async () => {
    const user = userEvent.setup();
    const oneOf = card(7, { id: 'c7', state: 'active', holder: { id: 'h9', name: 'Siv Aune' } });
    server
      .on(cardApi.one, { site: SITE, id: 'c7' }, () => oneOf)
      .on(cardApi.history, { site: SITE, id: 'c7' }, () => []);
    show(<StockScreen />, { at: 'stock/c7', path: 'stock/:card?' });
    const held = (await screen.findByLabelText('Held by')) as HTMLSelectElement;
    await waitFor(() => expect(held.options).toHaveLength(4));
    // Who holds it is not among the first, and is shown all the same.
    expect(held.selectedOptions[0]!.text).toBe('Siv Aune');
    await user.type(screen.getByLabelText('Find a holder'), 'ped');
    await waitFor(() => expect([...held.options].map((o) => o.text)).toEqual(['nobody', 'Siv Aune', 'Peder Moe']));
    await user.selectOptions(held, 'Peder Moe');
    await user.clear(screen.getByLabelText('Find a holder'));
    await user.type(screen.getByLabelText('Find a holder'), 'ol');
    await waitFor(() => expect([...held.options].map((o) => o.text)).toEqual(['nobody', 'Peder Moe', 'Oline Strand']));
    server.on(cardApi.update, { site: SITE, id: 'c7' }, () => oneOf);
    await user.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(server.asked.find(({ line }) => line.startsWith('PATCH'))).toBeTruthy());
    expect(server.asked.find(({ line }) => line.startsWith('PATCH'))!.body).toMatchObject({
      holderId: 'h1',
      revision: 1,
    });
  });

  it('a card that the server refuses keeps the form as it was typed, and says at which field', async () => {
    const user = userEvent.setup();
    const refusal = { code: 'card-on-file', message: 'card 58/512 is on file already.', where: { field: 'number' } };
    server.on(cardApi.add, { site: SITE }, () => refusal);
    show(<StockScreen />, { at: 'stock?issue=new', path: 'stock/:card?' });
    await user.type(await facility(), '58');
    await user.type(screen.getByLabelText('Number'), '512');
    await user.type(screen.getByLabelText('Printed on it'), 'A-512');
    expect(await screen.findByText('It will deliver 26 bits:')).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Enter in stock' }));
    expect(await screen.findByRole('alert')).toBeTruthy();
    const number = screen.getByLabelText('Number') as HTMLInputElement;
    expect([number.value, number.getAttribute('aria-invalid')]).toEqual(['512', 'true']);
    expect((screen.getByLabelText('Printed on it') as HTMLInputElement).value).toBe('A-512');
  });

  it('a number that the format cannot hold is told before it is sent', async () => {
    const user = userEvent.setup();
    show(<StockScreen />, { at: 'stock?issue=new', path: 'stock/:card?' });
    await user.type(await facility(), '58');
    await user.type(screen.getByLabelText('Number'), '65536');
    expect(await screen.findByText(/65535/)).toBeTruthy();
    expect((screen.getByRole('button', { name: 'Enter in stock' }) as HTMLButtonElement).disabled).toBe(true);
  });
});
