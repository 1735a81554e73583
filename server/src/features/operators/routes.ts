/** Operators: who may work at a site, and as what. */
import { operatorApi } from '@rawbits/api';
import { type App, type Asking, handle } from '../../platform/http/app.ts';
import { notFound } from '../../platform/problem/problem.ts';
import { checkPassword } from '../../platform/session/passwordRules.ts';
import { hashPassword } from '../../platform/session/passwords.ts';
import { change } from '../../platform/trail/change.ts';
import { type Act, checkMay, concernsCustodian, perform } from './acts.ts';
import { approvalRoutes, askForSecond } from './approvals.ts';
import { describe, describeOne } from './describe.ts';

/** Carries an act out, or asks for a second person where a key custodian is concerned. */
async function act(app: App, operator: Asking, site: string, what: Act) {
  await checkMay(app.db, operator, site, what);
  if (await concernsCustodian(app.db, what)) return { awaiting: await askForSecond(app, operator, site, what) };
  const done = await change(app, operator, site, (tx, record) => perform(tx, record, operator, site, what));
  await app.live.checkNow();
  return done;
}

/** As `act`, for what leaves the operator at the site. */
async function actHere(app: App, operator: Asking, site: string, what: Act) {
  const done = await act(app, operator, site, what);
  if (!done) throw notFound('operator');
  return done;
}

const list = handle(operatorApi.list, ({ app, operator, site }) => describe(app.db, operator, site));

const add = handle(operatorApi.add, async ({ app, operator, site, body }) => {
  const { login, name, roles, password } = body;
  checkPassword(password, body);
  return actHere(app, operator, site, { kind: 'add', login, name, roles, passwordHash: await hashPassword(password) });
});

const setRoles = handle(operatorApi.setRoles, ({ app, operator, site, params, body }) =>
  act(app, operator, site, { kind: 'roles', id: params.id!, roles: body.roles }),
);

const reset = handle(operatorApi.reset, async ({ app, operator, site, params, body }) => {
  const { id, login, name } = await describeOne(app.db, operator, site, params.id!);
  checkPassword(body.password, { login, name });
  return actHere(app, operator, site, { kind: 'reset', id, passwordHash: await hashPassword(body.password) });
});

const closing = (kind: 'close' | 'reopen') =>
  handle(operatorApi[kind], ({ app, operator, site, params }) =>
    actHere(app, operator, site, { kind, id: params.id! }),
  );

export const operatorRoutes = [list, add, setRoles, reset, closing('close'), closing('reopen'), ...approvalRoutes];
