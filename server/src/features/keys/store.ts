/** The key store of a site: made, unlocked, locked, its passphrase changed. */
import { type KeyStore, keyStoreApi, type Permission, permissionsOf, type Role } from '@rawbits/api';
import { and, eq, isNull } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { type App, type Asking, handle } from '../../platform/http/app.ts';
import { checkPassword } from '../../platform/session/passwordRules.ts';
import { clientOf, tryOnce } from '../../platform/session/slowDown.ts';
import { operatorSiteTable, operatorTable } from '../../platform/session/tables.ts';

/** How many people of a site take part in keeping keys; costs its operators. */
async function peopleOf(db: Queryable, site: string): Promise<KeyStore['people']> {
  const held = await db
    .select({ id: operatorTable.id, role: operatorSiteTable.role })
    .from(operatorSiteTable)
    .innerJoin(operatorTable, eq(operatorTable.id, operatorSiteTable.operatorId))
    .where(and(eq(operatorSiteTable.siteId, site), isNull(operatorTable.closedAt)));
  const who = (permission: Permission) =>
    new Set(held.filter(({ role }) => permissionsOf([role as Role]).has(permission)).map(({ id }) => id)).size;
  return { custodians: who('hold keys'), agree: who('agree on custodians') };
}

async function describe(app: App, site: string): Promise<KeyStore> {
  const { openedAt, locksAt, setAt, ...state } = await app.vault.state(site);
  const text = (at: Date | null) => at?.toISOString() ?? null;
  return {
    ...state,
    people: await peopleOf(app.db, site),
    openedAt: text(openedAt),
    locksAt: text(locksAt),
    setAt: text(setAt),
  };
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
