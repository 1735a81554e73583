/** Signing in and out, one's own password, and the very first operator. */
import { changePasswordSchema, type Session, sessionSchema, setupSchema, signInSchema } from '@rawbits/core/api';
import { and, eq, inArray, isNull } from 'drizzle-orm';
import { z } from 'zod';
import { newId, tables } from '../database/index.ts';
import { type App, route, type SignedIn } from '../http/app.ts';
import { conflict, forbidden, HttpProblem, invalid } from '../http/problem.ts';
import { insertSite } from '../sites/insert.ts';
import { change, HOUSE } from '../trail/change.ts';
import { hashPassword, passwordIs } from './passwords.ts';
import { closeSession, closeSessionsOf, openSession, rolesOf } from './sessions.ts';
import { checkWait, forgetFailures, noteFailure } from './slowDown.ts';

async function describe(app: App, operator: Omit<SignedIn, 'tokenHash'>): Promise<Session> {
  const ids = [...operator.roles.keys()];
  const rows =
    ids.length === 0
      ? []
      : await app.db.select().from(tables.sites).where(inArray(tables.sites.id, ids)).orderBy(tables.sites.name);
  return {
    operator: {
      id: operator.id,
      login: operator.login,
      name: operator.name,
      mustChangePassword: operator.mustChangePassword,
    },
    sites: rows.map(({ id, name, shortName, hasRig }) => ({
      id,
      name,
      shortName,
      hasRig,
      role: operator.roles.get(id)!,
    })),
  };
}

const signIn = route({
  method: 'post',
  path: '/session',
  summary: 'Sign in',
  needs: 'nothing',
  body: signInSchema,
  answers: sessionSchema,
  handle: async ({ app, body, request, response }) => {
    const login = body.login.trim().toLowerCase();
    const sources: ['login' | 'address', string][] = [
      ['login', login],
      ['address', request.ip ?? 'unknown'],
    ];
    await checkWait(app.db, sources);
    const [operator] = await app.db
      .select()
      .from(tables.operators)
      .where(and(eq(tables.operators.login, login), isNull(tables.operators.closedAt)));
    if (!(await passwordIs(operator?.passwordHash, body.password))) {
      await noteFailure(app.db, sources);
      throw new HttpProblem(401, {
        code: 'sign-in',
        message: 'Name or password is wrong.',
        hint: 'Check both; upper and lower case count in the password.',
      });
    }
    await forgetFailures(app.db, login);
    await openSession(app.db, operator!.id, response, request.secure);
    return describe(app, { ...operator!, roles: await rolesOf(app.db, operator!.id) });
  },
});

const signOut = route({
  method: 'delete',
  path: '/session',
  summary: 'Sign out',
  needs: 'signed in',
  answers: z.object({}),
  handle: async ({ app, operator, response }) => {
    await closeSession(app.db, operator.tokenHash, response);
    return {};
  },
});

const whoAmI = route({
  method: 'get',
  path: '/session',
  summary: 'Who is signed in, and at which sites',
  needs: 'signed in',
  answers: sessionSchema,
  handle: async ({ app, operator }) => describe(app, operator),
});

const changePassword = route({
  method: 'post',
  path: '/session/password',
  summary: 'Change one’s own password; ends all other sessions',
  needs: 'signed in',
  body: changePasswordSchema,
  answers: sessionSchema,
  handle: async ({ app, operator, body }) => {
    const [row] = await app.db.select().from(tables.operators).where(eq(tables.operators.id, operator.id));
    if (!(await passwordIs(row?.passwordHash, body.current)))
      throw invalid('current', 'The current password is wrong.');
    if (body.next === body.current) throw invalid('next', 'The new password is the old one.', 'Choose another.');
    const passwordHash = await hashPassword(body.next);
    await change(app, operator, HOUSE, async (tx, record) => {
      await tx
        .update(tables.operators)
        .set({ passwordHash, mustChangePassword: false })
        .where(eq(tables.operators.id, operator.id));
      await closeSessionsOf(tx, operator.id, operator.tokenHash);
      record.trail({ action: 'password changed', subject: `operator ${operator.login}` });
    });
    return describe(app, { ...operator, mustChangePassword: false });
  },
});

const setup = route({
  method: 'post',
  path: '/setup',
  summary:
    'The first operator and the first site, with the token that the start command made; only while there are none',
  needs: 'nothing',
  body: setupSchema,
  answers: z.object({ siteId: z.string(), operatorId: z.string() }),
  handle: async ({ app, body }) => {
    if (!app.setupToken || body.token !== app.setupToken) throw forbidden('The setup token is wrong.');
    const passwordHash = await hashPassword(body.password);
    const who = { id: newId(), name: body.name };
    return change(app, who, HOUSE, async (tx, record) => {
      await tx.select().from(tables.chains).where(eq(tables.chains.id, HOUSE)).for('update');
      const [someone] = await tx.select({ id: tables.operators.id }).from(tables.operators).limit(1);
      if (someone) throw conflict('already-set-up', 'There are operators already.', 'Sign in as an administrator.');
      await tx.insert(tables.operators).values({
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
  },
});

export const sessionRoutes = [signIn, signOut, whoAmI, changePassword, setup];
