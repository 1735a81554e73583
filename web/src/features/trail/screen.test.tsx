/** The trail as it is drawn: whoever scrolled back is not moved, but told that there is more since. */
import { type Happened, trailApi } from '@rawbits/api';
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { act } from 'react';
import { expect, it } from 'vitest';
import { api } from '../../platform/api/api.ts';
import { SITE, StandIn, show } from '../../testing/page.tsx';
import { TrailScreen } from './TrailScreen.tsx';

const change = (name: string, minute: number): Happened['rows'][number] => {
  const at = `2026-11-25T10:${String(minute).padStart(2, '0')}:00.000Z`;
  const entry = {
    name,
    seq: minute,
    at,
    operator: name,
    action: 'site changed',
    subject: 'site X',
    before: {},
    after: {},
  };
  return { kind: 'change', at, change: entry };
};

it('what was scrolled back to stays, and what happened since is a press away', async () => {
  const newest = [change('Ylva', 9)];
  new StandIn().on(trailApi.happened, { site: SITE }, (_body, query) => {
    if (query.get('limit') === '1') return { rows: newest.slice(0, 1), next: 'x' };
    return query.has('after') ? { rows: [change('Peder', 3)], next: null } : { rows: [...newest], next: 'p2' };
  });
  const { store } = show(<TrailScreen />, { at: 'trail', path: 'trail' });
  await screen.findByText(/Ylva/);
  await userEvent.click(screen.getByRole('button', { name: 'What was before' }));
  await screen.findByText(/Peder/);
  expect(screen.queryByRole('button', { name: 'Show what happened since' })).toBeNull();
  newest.unshift(change('Oline', 12));
  act(() => void store.dispatch(api.util.invalidateTags(['Trail'])));
  const since = await screen.findByRole('button', { name: 'Show what happened since' });
  expect(screen.queryByText(/Oline/)).toBeNull();
  await userEvent.click(since);
  await screen.findByText(/Oline/);
  await waitFor(() => expect(screen.queryByRole('button', { name: 'Show what happened since' })).toBeNull());
});

it('says that new entries are not sealed, and since when', async () => {
  const page = new StandIn().on(trailApi.happened, { site: SITE }, () => ({ rows: [change('Ylva', 9)], next: null }));
  page.on(trailApi.sealing, { site: SITE }, () => ({ failsSince: '2026-11-25T10:09:00.000Z' }));
  show(<TrailScreen />, { at: 'trail', path: 'trail' });
  expect((await screen.findByRole('alert')).textContent).toMatch(/have not been sealed .* since .*:09/);
});
