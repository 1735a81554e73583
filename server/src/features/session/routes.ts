/** Signing in and out, one's own password, and the very first operator. */

import { createHash, timingSafeEqual } from 'node:crypto';
import { type Session, sessionApi } from '@rawbits/api';
import { and, eq, inArray, isNull } from 'drizzle-orm';
import { newId } from '../../platform/database/index.ts';
import { installationTable } from '../../platform/database/tables.ts';
import { type App, handle } from '../../platform/http/app.ts';
import { conflict, forbidden, HttpProblem, invalid } from '../../platform/problem/problem.ts';
import { checkPassword } from '../../platform/session/passwordRules.ts';
import { hashPassword, passwordIs } from '../../platform/session/passwords.ts';
import type { SignedIn } from '../../platform/session/sessions.ts';
import { closeSession, closeSessionsOf, openSession, permissionsAt, rolesOf } from '../../platform/session/sessions.ts';
import { clientOf, tryOnce } from '../../platform/session/slowDown.ts';
import { operatorTable } from '../../platform/session/tables.ts';
import { change, HOUSE, UNKNOWN_OPERATOR, type Who } from '../../platform/trail/change.ts';
import { insertSite, siteTable } from '../sites/index.ts';

async function describe(app: App, operator: Omit<SignedIn, 'tokenHash'>): Promise<Session> {
  const ids = [...operator.roles.keys()];
  const rows =
    ids.length === 0
      ? []
      : await app.db.select().from(siteTable).where(inArray(siteTable.id, ids)).orderBy(siteTable.name);
  return {
    operator: {
      id: operator.id,
      login: operator.login,
      name: operator.name,
      mustChangePassword: operator.mustChangePassword,
    },
    sites: rows.map(({ id, name, shortName, timeZone, hasRig }) => ({
      id,
      name,
      shortName,
      timeZone,
      hasRig,
      roles: operator.roles.get(id)!,
      permissions: [...permissionsAt(operator, id)],
    })),
  };
}

const signIn = handle(sessionApi.signIn, async ({ app, body, request, response }) => {
  const tried = { name: body.login.trim().toLowerCase(), client: clientOf(request) };
  const [operator] = await app.db
    .select()
    .from(operatorTable)
    .where(and(eq(operatorTable.login, tried.name), isNull(operatorTable.closedAt)));
  await tryOnce(app.db, tried, async () => {
    if (await passwordIs(operator?.passwordHash, body.password)) return;
    await noteSignIn(app, 'sign-in failed', tried.client, operator);
    throw new HttpProblem(401, {
      code: 'sign-in',
      message: 'Name or password is wrong.',
      hint: 'Check both; upper and lower case count in the password.',
    });
  });
  await openSession(app, operator!.id, request, response);
  await noteSignIn(app, 'signed in', tried.client, operator);
  return describe(app, { ...operator!, roles: await rolesOf(app.db, operator!.id) });
});

/** A sign-in as an entry of the house. A name that nobody has is not noted: it may be a password in the wrong field. */
function noteSignIn(app: App, action: string, client: string, operator: (Who & { login: string }) | undefined) {
  const who = operator ?? { id: UNKNOWN_OPERATOR, name: 'nobody known', login: 'unknown' };
  return change(app, { id: who.id, name: who.name }, HOUSE, async (_tx, record) => {
    record.trail({ action, subject: `operator ${who.login}`, after: { from: client } });
  });
}

const signOut = handle(sessionApi.signOut, async ({ app, request, response }) => {
  await closeSession(app, request, response);
  return {};
});

const whoAmI = handle(sessionApi.whoAmI, async ({ app, operator }) => describe(app, operator));

const changePassword = handle(sessionApi.changePassword, async ({ app, operator, body, request }) => {
  const tried = { name: operator.login, client: clientOf(request) };
  const [row] = await app.db.select().from(operatorTable).where(eq(operatorTable.id, operator.id));
  await tryOnce(app.db, tried, async () => {
    if (!(await passwordIs(row?.passwordHash, body.current)))
      throw invalid('current', 'The current password is wrong.');
  });
  if (body.next.reveal() === body.current.reveal())
    throw invalid('next', 'The new password is the old one.', 'Choose another.');
  checkPassword(body.next, operator, 'next');
  const passwordHash = await hashPassword(body.next);
  await change(app, operator, HOUSE, async (tx, record) => {
    await tx
      .update(operatorTable)
      .set({ passwordHash, mustChangePassword: false })
      .where(eq(operatorTable.id, operator.id));
    await closeSessionsOf(tx, operator.id, operator.tokenHash);
    record.trail({ action: 'password changed', subject: `operator ${operator.login}` });
  });
  await app.live.checkNow();
  return describe(app, { ...operator, mustChangePassword: false });
});

const setupState = handle(sessionApi.setupState, async ({ app }) => {
  const [someone] = await app.db.select({ id: operatorTable.id }).from(operatorTable).limit(1);
  return { open: someone === undefined };
});

const setup = handle(sessionApi.setup, async ({ app, body }) => {
  if (!app.setupToken || !sameText(body.token.reveal(), app.setupToken)) throw forbidden('The setup token is wrong.');
  checkPassword(body.password, body);
  const passwordHash = await hashPassword(body.password);
  const who = { id: newId(), name: body.name };
  return change(app, who, HOUSE, async (tx, record) => {
    const [someone] = await tx.select({ id: operatorTable.id }).from(operatorTable).limit(1);
    // Of two that set it up at once, on any nodes of a cluster, one can write this row.
    const [first] = await tx.insert(installationTable).ignore().values({ name: 'set up', value: who.id });
    if (someone || first.affectedRows === 0)
      throw conflict('already-set-up', 'There are operators already.', 'Sign in as an administrator.');
    await tx.insert(operatorTable).values({
      id: who.id,
      login: body.login,
      name: body.name,
      passwordHash,
      mustChangePassword: false,
      createdAt: new Date(),
    });
    const siteId = await insertSite(tx, body.site, who.id);
    record.trail({
      action: 'set up',
      subject: `site ${body.site.name}`,
      after: { ...body.site, administrator: body.login },
    });
    return { siteId, operatorId: who.id };
  });
});

/** Compares in a time that tells nothing of where two texts differ. */
function sameText(a: string, b: string): boolean {
  const digest = (text: string) => createHash('sha256').update(text).digest();
  return timingSafeEqual(digest(a), digest(b));
}

export const sessionRoutes = [signIn, signOut, whoAmI, changePassword, setupState, setup];
