/** What is typed of a card stays: through a reload, through somebody else's save, through a later read; and nothing is taken for sure that is not. */
import { cardApi, cardholderApi, facilityCodeApi } from '@rawbits/api';
import { encode } from '@rawbits/core/codec';
import { parseLayoutLine } from '@rawbits/core/format';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { beforeEach, describe, expect, it } from 'vitest';
import { arrived, type ReadInHand } from '../../parts/inHand/slice.ts';
import { stockApi } from '../../platform/endpoints/cards.ts';
import { giveSizes, SITE, show } from '../../testing/page.tsx';
import { CODE, card, FORMAT, stockServer } from '../../testing/stock.ts';
import { StockScreen } from './StockScreen.tsx';

const AT = { at: 'stock?issue=new', path: 'stock/:card?' };
const ONE = { at: 'stock/c7', path: 'stock/:card?' };
const field = (label: string) => screen.getByLabelText(label) as HTMLInputElement;
const chosen = (label: string) => (screen.getByLabelText(label) as HTMLSelectElement).selectedOptions[0]?.text;
const read = (bits: string, at: string): ReadInHand => ({ bits, at, from: 'Boat shed', id: at, readings: [] });

describe('what is typed of a card', () => {
  beforeEach(() => giveSizes());

  it('is there again after a reload, says so, and can be begun afresh', async () => {
    stockServer();
    const user = userEvent.setup();
    show(<StockScreen />, AT);
    await waitFor(() => expect(field('Facility code').disabled).toBe(false));
    await user.type(field('Facility code'), '58');
    await user.type(field('Printed on it'), 'half typed');
    cleanup();
    show(<StockScreen />, AT);
    expect(await screen.findByTestId('draft')).toBeTruthy();
    expect([field('Facility code').value, field('Printed on it').value]).toEqual(['58', 'half typed']);
    await user.click(screen.getByRole('button', { name: 'Begin afresh' }));
    expect([field('Facility code').value, field('Printed on it').value]).toEqual(['', '']);
    cleanup();
    show(<StockScreen />, AT);
    await waitFor(() => expect(field('Facility code').disabled).toBe(false));
    expect(screen.queryByTestId('draft')).toBeNull();
  });

  it('stays when somebody else saves the card, and theirs stands beside it', async () => {
    let now = card(7, { state: 'active', holder: { id: 'h0', name: 'Oline Strand' }, notes: 'fob' });
    const server = stockServer()
      .on(cardApi.one, { site: SITE, id: 'c7' }, () => now)
      .on(cardApi.history, { site: SITE, id: 'c7' }, () => [])
      .on(cardApi.update, { site: SITE, id: 'c7' }, () => now);
    const user = userEvent.setup();
    const { store } = show(<StockScreen />, ONE);
    await screen.findByLabelText('Notes');
    await user.type(field('Notes'), ' of the boat shed');
    now = { ...now, notes: 'a wristband', printed: 'S-7', revision: 2 };
    store.dispatch(stockApi.util.invalidateTags([{ type: 'Cards', id: 'c7' }]));
    // What was not typed at is as they saved it.
    await waitFor(() => expect(field('Printed on it').value).toBe('S-7'));
    expect(field('Notes').value).toBe('fob of the boat shed');
    expect((await screen.findByTestId('theirs')).textContent).toContain(
      'Notes: yours is fob of the boat shed, theirs is a wristband.',
    );
    // Nothing goes over theirs before it is decided.
    await user.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(document.activeElement?.textContent).toBe('Keep yours'));
    expect(server.asked.filter(({ line }) => line.startsWith('PATCH'))).toEqual([]);
    await user.keyboard('{Enter}');
    expect(screen.queryByTestId('theirs')).toBeNull();
    await user.click(screen.getByRole('button', { name: 'Save' }));
    const sent = () => server.asked.findLast(({ line }) => line.startsWith('PATCH'));
    await waitFor(() => expect(sent()?.body).toMatchObject({ revision: 2, notes: 'fob of the boat shed' }));
    cleanup();
    show(<StockScreen />, ONE);
    await screen.findByLabelText('Notes');
    expect(screen.queryByTestId('draft')).toBeNull();
  });

  it('is held against what was saved while nobody looked: after a reload, too', async () => {
    let now = card(7, { notes: 'fob' });
    stockServer()
      .on(cardApi.one, { site: SITE, id: 'c7' }, () => now)
      .on(cardApi.history, { site: SITE, id: 'c7' }, () => []);
    const user = userEvent.setup();
    show(<StockScreen />, ONE);
    await screen.findByLabelText('Notes');
    await user.type(field('Notes'), '!');
    cleanup();
    now = { ...now, notes: 'a wristband', revision: 2 };
    show(<StockScreen />, ONE);
    expect((await screen.findByTestId('theirs')).textContent).toContain('Notes: yours is fob!, theirs is a wristband.');
    expect(field('Notes').value).toBe('fob!');
  });

  it('with a holder who is not among the first of many keeps its holder, by name', async () => {
    stockServer();
    const user = userEvent.setup();
    show(<StockScreen />, AT);
    await waitFor(() => expect(field('Held by').querySelectorAll('option').length).toBeGreaterThan(2));
    await user.selectOptions(field('Held by'), 'Peder Moe');
    cleanup();
    stockServer().on(cardholderApi.list, { site: SITE }, () => ({
      cardholders: [{ id: 'h0', name: 'Oline Strand', department: '', organisation: '', kind: '', cards: 0 }],
      next: 'more',
    }));
    show(<StockScreen />, AT);
    await screen.findByTestId('draft');
    expect(chosen('Held by')).toBe('Peder Moe');
  });

  it('theirs can be taken', async () => {
    let now = card(7, { notes: 'fob' });
    stockServer()
      .on(cardApi.one, { site: SITE, id: 'c7' }, () => now)
      .on(cardApi.history, { site: SITE, id: 'c7' }, () => []);
    const user = userEvent.setup();
    const { store } = show(<StockScreen />, ONE);
    await screen.findByLabelText('Notes');
    await user.type(field('Notes'), '!');
    now = { ...now, notes: 'a wristband', revision: 2 };
    store.dispatch(stockApi.util.invalidateTags([{ type: 'Cards', id: 'c7' }]));
    await user.click(await screen.findByRole('button', { name: 'Take theirs' }));
    expect(field('Notes').value).toBe('a wristband');
    expect(screen.queryByTestId('theirs')).toBeNull();
  });

  it('of a held read survives a reload with the read, whatever was read meanwhile; the holder goes along to a later one', async () => {
    stockServer();
    const user = userEvent.setup();
    const bits = (number: string) => encode(FORMAT, { facility: '58', number }).toBinary();
    const drawn = show(<StockScreen />, { ...AT, at: 'stock?issue=latest' });
    drawn.store.dispatch(arrived(read(bits('1023'), '2026-11-25T10:00:00.000Z')));
    await waitFor(() => expect(field('Number').value).toBe('1023'));
    await user.selectOptions(field('Held by'), 'Peder Moe');
    const { search } = drawn.router.state.location;
    cleanup();
    const again = show(<StockScreen />, { ...AT, at: `stock${search}` });
    again.store.dispatch(arrived(read(bits('1024'), '2026-11-25T10:05:00.000Z')));
    await waitFor(() => expect(chosen('Held by')).toBe('Peder Moe'));
    expect(field('Number').value).toBe('1023');
    expect((await screen.findByTestId('later-read')).textContent).toContain('A later read came in from Boat shed');
    await user.click(screen.getByRole('button', { name: 'use the later one' }));
    await waitFor(() => expect(field('Number').value).toBe('1024'));
    expect(chosen('Held by')).toBe('Peder Moe');
    // The first form is not lost.
    expect(within(screen.getByRole('list', { name: 'Unfinished forms' })).getByText('a card of 26 bits')).toBeTruthy();
  });

  it('where several formats fit, none is taken until the print tells, or somebody does', async () => {
    const layout = parseLayoutLine('26 | 1 even 2-13 | 2-25 number | 26 odd 14-25');
    const other = { ...FORMAT, ...layout, id: 'plain', name: 'No code' };
    stockServer([FORMAT, other]);
    const user = userEvent.setup();
    const bits = encode(FORMAT, { facility: '58', number: '1023' }).toBinary();
    const { store } = show(<StockScreen />, { ...AT, at: 'stock?issue=latest' });
    store.dispatch(arrived(read(bits, '2026-11-25T10:00:00.000Z')));
    const question = await screen.findByRole('group', { name: /2 formats in use fit this read/ });
    expect([field('Number').value, field('Format').value]).toEqual(['', '']);
    await user.type(field('Printed on it'), '1023');
    await waitFor(() => expect([field('Format').value, field('Number').value]).toEqual(['26-8-16', '1023']));
    await user.click(within(question).getByLabelText(/No code/));
    expect([field('Format').value, field('Number').value]).toEqual(['plain', String(58 * 65536 + 1023)]);
  });

  it('a code is told by name, and a number that is reserved under it, before it is issued', async () => {
    stockServer().on(facilityCodeApi.list, { site: SITE }, () => [CODE]);
    const user = userEvent.setup();
    show(<StockScreen />, AT);
    await waitFor(() => expect(field('Facility code').disabled).toBe(false));
    await user.type(field('Facility code'), '58');
    await user.type(field('Number'), '150');
    expect((await screen.findByTestId('reserved')).textContent).toContain('reserved under Main stock: divers');
    await user.type(field('Number'), '0');
    await waitFor(() => expect(screen.queryByTestId('reserved')).toBeNull());
  });

  it('says for whom the same bits are on file already, under any format, before anything is saved', async () => {
    stockServer([FORMAT], () => [
      card(1023, { formatId: 'plain', facility: null, holder: { id: 'h1', name: 'Peder Moe' }, state: 'active' }),
    ]);
    const user = userEvent.setup();
    show(<StockScreen />, AT);
    await waitFor(() => expect(field('Facility code').disabled).toBe(false));
    await user.type(field('Facility code'), '58');
    await user.type(field('Number'), '1023');
    expect((await screen.findByTestId('on-file')).textContent).toContain('Already on file for Peder Moe');
    const enter = screen.getByRole('button', { name: 'Enter in stock' }) as HTMLButtonElement;
    expect(enter.disabled).toBe(true);
    await user.click(screen.getByLabelText(/Enter it all the same/));
    expect(enter.disabled).toBe(false);
  });

  it('the very card in stock is issued from there, and a print of another card is told before', async () => {
    const stocked = card(1023, { box: { id: 'b1', name: 'White cards' }, revision: 4 });
    const server = stockServer([FORMAT], () => [stocked]).on(
      cardApi.update,
      { site: SITE, id: 'c1023' },
      () => stocked,
    );
    const user = userEvent.setup();
    const { store } = show(<StockScreen />, { ...AT, at: 'stock?issue=latest' });
    store.dispatch(
      arrived(read(encode(FORMAT, { facility: '58', number: '1023' }).toBinary(), '2026-11-25T10:00:00.000Z')),
    );
    expect((await screen.findByTestId('from-stock')).textContent).toBe(
      'In stock, of the box White cards: it is issued from there.',
    );
    const issue = screen.getByRole('button', { name: 'Issue' }) as HTMLButtonElement;
    expect([issue.disabled, screen.queryByTestId('on-file')]).toEqual([true, null]);
    await user.type(field('Printed on it'), '1032');
    expect(screen.getByTestId('print-doubt').textContent).toContain(
      'The reader delivered number 1023, and 1032 is printed',
    );
    await user.clear(field('Printed on it'));
    expect(screen.queryByTestId('print-doubt')).toBeNull();
    await user.selectOptions(screen.getByLabelText('Held by'), 'Peder Moe');
    await user.click(issue);
    await waitFor(() =>
      expect(server.asked.find(({ line }) => line.startsWith('PATCH'))?.body).toEqual({
        revision: 4,
        holderId: 'h1',
        state: 'active',
        validFrom: null,
        validTo: null,
      }),
    );
    expect(server.asked.some(({ line }) => line.startsWith('POST'))).toBe(false);
  });
});
