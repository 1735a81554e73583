/** The command list finds what the site has: people, cards, codes and doors, whatever they are found by. */
import { doorApi, facilityCodeApi } from '@rawbits/api';
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { beforeEach, expect, it } from 'vitest';
import { giveSizes, SITE, show } from '../testing/page.tsx';
import { CODE, stockServer } from '../testing/stock.ts';
import { Commands } from './Commands.tsx';

beforeEach(() => {
  giveSizes();
  // What jsdom lacks and the list asks for.
  HTMLDialogElement.prototype.showModal ??= function (this: HTMLDialogElement) {
    this.open = true;
  };
  Element.prototype.scrollIntoView ??= () => undefined;
  globalThis.ResizeObserver ??= class {
    observe() {}
    unobserve() {}
    disconnect() {}
  } as unknown as typeof ResizeObserver;
});

it('by the beginning of a name; choosing one goes there', async () => {
  stockServer()
    .on(facilityCodeApi.list, { site: SITE }, () => [CODE])
    .on(doorApi.list, { site: SITE }, () => []);
  const { router } = show(<Commands />);
  const user = userEvent.setup();
  const field = screen.getByLabelText('Command');
  await user.type(field, 'o');
  expect(screen.queryByText('Oline Strand')).toBeNull();
  await user.type(field, 'line');
  const person = await screen.findByText('Oline Strand');
  // A card that the server found by its holder says so little of it that the list alone would not have it.
  expect((await screen.findAllByText(/^Card/)).length).toBeGreaterThan(0);
  await user.clear(field);
  await user.type(field, 'main st');
  expect(await screen.findByText('Main stock')).toBeTruthy();
  await user.clear(field);
  await user.type(field, 'oline');
  await user.click(await screen.findByText('Oline Strand'));
  expect(person).toBeTruthy();
  expect(router.state.location.pathname).toMatch(/\/stock\/people\/h0$/);
});
