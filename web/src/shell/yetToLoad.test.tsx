/** After a change was saved: what waits is named until it is loaded, or put away. */
import { type Controller, doorApi } from '@rawbits/api';
import { act, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { doorApi as endpoints } from '../platform/endpoints/doors.ts';
import { leftToLoad } from '../platform/frame/slice.ts';
import { controller } from '../testing/doors.ts';
import { SITE, StandIn, show } from '../testing/page.tsx';
import { YetToLoad } from './YetToLoad.tsx';

const BOAT_SHED = controller('Boat shed', { standing: 'changes waiting', waitingCount: 1 });
const MAIN = controller('Main building', { standing: 'changes waiting', waitingCount: 2000, waitingMore: true });
const COLD_STORE = controller('Cold store', { standing: 'never loaded' });
const FUEL_DOCK = controller('Fuel dock');

function saved(first: Controller[]) {
  let now = first;
  new StandIn().on(doorApi.list, { site: SITE }, () => now);
  const page = show(<YetToLoad />);
  act(() => void page.store.dispatch(leftToLoad({ site: SITE, change: 'another mask' })));
  const become = (next: Controller[]) => {
    now = next;
    return act(() => page.store.dispatch(endpoints.endpoints.controllers.initiate(SITE, { forceRefetch: true })));
  };
  return { ...page, become };
}
const bar = () => screen.findByRole('region', { name: 'Yet to be loaded' });

it('names each controller that waits, with how much, and leads to it', async () => {
  saved([BOAT_SHED, MAIN, COLD_STORE, FUEL_DOCK]);
  expect((await bar()).textContent).toContain('another mask');
  const links = screen.getAllByRole('link').map((link) => [link.textContent, link.getAttribute('href')]);
  expect(links).toEqual([
    ['Boat shed (1 change)', `/${SITE}/doors?controller=boat-shed`],
    ['Main building (more than 2,000 changes)', `/${SITE}/doors?controller=main-building`],
    ['Cold store (never loaded)', `/${SITE}/doors?controller=cold-store`],
  ]);
});

it('goes when all of them are loaded, and does not come back with what waits later', async () => {
  const { become, store } = saved([BOAT_SHED, FUEL_DOCK]);
  await bar();
  await become([controller('Boat shed'), FUEL_DOCK]);
  await waitFor(() => expect(screen.queryByRole('region')).toBeNull());
  expect(store.getState().frame.toLoad).toBeNull();
  await become([BOAT_SHED, FUEL_DOCK]);
  expect(screen.queryByRole('region')).toBeNull();
});

it('what was known from before the change is not taken for done', async () => {
  const { become, store } = saved([controller('Boat shed')]);
  await waitFor(() =>
    expect(endpoints.endpoints.controllers.select(SITE)(store.getState() as never).data).toHaveLength(1),
  );
  await become([BOAT_SHED]);
  expect((await bar()).textContent).toContain('Boat shed');
});

it('can be put away, and says nothing at another site', async () => {
  const { store } = saved([BOAT_SHED]);
  await bar();
  await userEvent.click(screen.getByRole('button', { name: 'put away' }));
  expect(screen.queryByRole('region')).toBeNull();
  act(() => void store.dispatch(leftToLoad({ site: 'elsewhere', change: 'x' })));
  expect(screen.queryByRole('region')).toBeNull();
});
