/** The steps before keys can be used, as who may take the next one sees them, and as who may not. */
import { type KeyStore, keyStoreApi, type Permission } from '@rawbits/api';
import { screen } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { useKeyStoreQuery } from '../../platform/endpoints/keys.ts';
import { SITE, StandIn, show } from '../../testing/page.tsx';
import { KeysReady } from './KeysReady.tsx';

const store = (more: Partial<KeyStore>): KeyStore => ({
  set: false,
  open: false,
  openedBy: null,
  openedAt: null,
  locksAt: null,
  setAt: null,
  revision: 0,
  servers: [],
  people: { custodians: 0, agree: 1 },
  ...more,
});
const serve = (state: KeyStore, permissions: Permission[]) =>
  new StandIn(permissions).on(keyStoreApi.state, { site: SITE }, () => state);

describe('before keys can be used', () => {
  it('an administrator is led to the next step, and to no later one', async () => {
    serve(store({}), ['see the site', 'manage operators']);
    show(<KeysReady />, { at: 'keys', path: 'keys' });
    const steps = await screen.findAllByRole('listitem');
    expect(steps.map(({ textContent }) => textContent)).toEqual([
      expect.stringContaining('(1 of 2) Open Operators'),
      'Two key custodians, so that nobody gets a key alone (0 of 2)',
      'A key store with its passphrase',
    ]);
    expect(screen.getByRole('link').getAttribute('href')).toBe(`/${SITE}/operators`);
  });

  it('is led nowhere on the screen where it is done', async () => {
    serve(store({}), ['see the site', 'manage operators']);
    show(<KeysReady />, { at: 'operators', path: 'operators' });
    expect(await screen.findAllByRole('listitem')).toHaveLength(3);
    expect(screen.queryByRole('link')).toBeNull();
  });

  it('who may not take it is told who does', async () => {
    serve(store({ people: { custodians: 2, agree: 3 } }), ['see the site', 'manage operators']);
    show(<KeysReady />, { at: 'keys', path: 'keys' });
    expect(await screen.findByText(/A key custodian does that/)).toBeTruthy();
    expect(screen.queryByRole('link')).toBeNull();
  });

  it('nothing is shown once all of it is there', async () => {
    serve(store({ set: true, people: { custodians: 2, agree: 3 } }), ['see the site']);
    const Known = () => (useKeyStoreQuery(SITE).data ? <p>it is known now</p> : null);
    const both = (
      <>
        <KeysReady />
        <Known />
      </>
    );
    show(both, { at: 'keys', path: 'keys' });
    await screen.findByText('it is known now');
    expect(screen.queryByRole('region', { name: 'Before keys can be used' })).toBeNull();
  });
});
