// @vitest-environment jsdom
/** Stock as it is drawn: many cards, many holders, and a form that keeps what was typed. */
import {
  type Card,
  cardApi,
  cardholderApi,
  facilityCodeApi,
  formatApi,
  type SiteFormat,
  translationApi,
} from '@rawbits/api';
import { catalogued } from '@rawbits/core/catalogue';
import { printLayoutLine } from '@rawbits/core/format';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it } from 'vitest';
import { giveSizes, SITE, StandIn, show } from '../../testing/page.tsx';
import { StockScreen } from './StockScreen.tsx';

const FORMAT = catalogued('26-8-16')!;
const adopted: SiteFormat = {
  format: FORMAT,
  layout: printLayoutLine(FORMAT),
  version: 1,
  createdAt: '2026-01-01T00:00:00.000Z',
  createdBy: 'Ylva Holm',
  reason: 'new',
  newest: 1,
  retiredAt: null,
  provenOn: 0,
  adopted: true,
};
const card = (number: number, more: Partial<Card> = {}): Card => ({
  id: `c${number}`,
  formatId: FORMAT.id,
  facility: '58',
  number: String(number),
  printed: '',
  state: 'in stock',
  holder: null,
  validFrom: null,
  validTo: null,
  notes: '',
  revision: 1,
  bits: null,
  loaded: { in: 0, of: 1 },
  ...more,
});

describe('stock', () => {
  let server: StandIn;
  beforeEach(() => {
    giveSizes();
    server = new StandIn()
      .on(formatApi.ofSite, { site: SITE }, () => [adopted])
      .on(facilityCodeApi.list, { site: SITE }, () => [])
      .on(translationApi.list, { site: SITE }, () => [])
      .on(cardholderApi.list, { site: SITE }, (_body, query) => {
        const people = ['Oline Strand', 'Peder Moe'].map((name, i) => ({
          id: `h${i}`,
          name,
          department: '',
          cards: 0,
        }));
        const search = query.get('search')?.toLowerCase() ?? '';
        const found = people.filter(({ name }) => name.toLowerCase().startsWith(search));
        return { cardholders: found, next: search === '' ? 'more' : null };
      })
      .on(cardApi.list, { site: SITE }, (_body, query) => {
        const from = Number(query.get('after') ?? 0);
        const cards = Array.from({ length: 200 }, (_, i) => card(from + i));
        return { cards, total: 1_000_000, more: false, next: String(from + 200) };
      });
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
    server.on(cardApi.one, { site: SITE, id: 'c7' }, () => oneOf);
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
