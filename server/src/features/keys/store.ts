/** The key store of a site: made, unlocked, locked, its passphrase changed. */
import { type KeyStore, keyStoreApi } from '@rawbits/api';
import { type App, type Asking, handle } from '../../platform/http/app.ts';
import { checkPassword } from '../../platform/session/passwordRules.ts';
import { clientOf, tryOnce } from '../../platform/session/slowDown.ts';

async function describe(app: App, site: string): Promise<KeyStore> {
  const { openedAt, locksAt, setAt, ...state } = await app.vault.state(site);
  const text = (at: Date | null) => at?.toISOString() ?? null;
  return { ...state, openedAt: text(openedAt), locksAt: text(locksAt), setAt: text(setAt) };
}

/** Wrong passphrases are counted like wrong passwords, each before it is looked at, and slow the next try down. */
const trying = (app: App, site: string, client: string, work: () => Promise<void>): Promise<void> =>
  tryOnce(app.db, { name: `key store ${site}`, client }, work, { what: 'passphrases' });

const state = handle(keyStoreApi.state, ({ app, site }) => describe(app, site));

const make = handle(keyStoreApi.make, async ({ app, operator, site, body }) => {
  checkPassword(body.passphrase, operator, 'passphrase');
  await app.vault.make(operator, site, body.passphrase);
  return describe(app, site);
});

const unlock = handle(keyStoreApi.unlock, async ({ app, operator, site, body, request }) => {
  await trying(app, site, clientOf(request), () => app.vault.unlock(operator, site, body.passphrase));
  return describe(app, site);
});

const lock = handle(keyStoreApi.lock, async ({ app, operator, site }) => {
  await app.vault.lock(operator, site, `${operator.name} locked it`);
  return describe(app, site);
});

const changePassphrase = handle(keyStoreApi.changePassphrase, async ({ app, operator, site, body, request }) => {
  checkPassword(body.next, operator as Asking, 'next');
  await trying(app, site, clientOf(request), () => app.vault.changePassphrase(operator, site, body.current, body.next));
  return describe(app, site);
});

export const storeRoutes = [state, make, unlock, lock, changePassphrase];
