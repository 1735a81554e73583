/**
 * Operators: who may work at a site, and as what. Roles are held at each site. What touches an operator everywhere (a
 * reset password, closing) is allowed only to whoever is administrator at all of that operator's sites: otherwise the
 * administrator of one site could make their way into another.
 */
import {
  newOperatorSchema,
  type Operator,
  operatorSchema,
  operatorSitesSchema,
  type Role,
  resetPasswordSchema,
} from '@rawbits/core/api';
import { and, eq, inArray } from 'drizzle-orm';
import { z } from 'zod';
import { isDuplicate, newId, type Queryable, tables } from '../database/index.ts';
import { type App, route, type SignedIn } from '../http/app.ts';
import { conflict, forbidden, invalid, notFound } from '../http/problem.ts';
import { hashPassword } from '../session/passwords.ts';
import { closeSessionsOf, rolesOf } from '../session/sessions.ts';
import { change } from '../trail/change.ts';

const administers = (operator: SignedIn, siteId: string): boolean => operator.roles.get(siteId) === 'administrator';

async function describe(db: Queryable, asking: SignedIn, siteId: string, only?: string): Promise<Operator[]> {
  const here = await db.select().from(tables.operatorSites).where(eq(tables.operatorSites.siteId, siteId));
  const ids = here.map((row) => row.operatorId).filter((id) => only === undefined || id === only);
  if (ids.length === 0) return [];
  const rows = await db
    .select()
    .from(tables.operators)
    .where(inArray(tables.operators.id, ids))
    .orderBy(tables.operators.name);
  const roles = await db
    .select({
      operatorId: tables.operatorSites.operatorId,
      id: tables.sites.id,
      name: tables.sites.name,
      role: tables.operatorSites.role,
    })
    .from(tables.operatorSites)
    .innerJoin(tables.sites, eq(tables.sites.id, tables.operatorSites.siteId))
    .where(inArray(tables.operatorSites.operatorId, ids));
  return rows.map((row) => ({
    id: row.id,
    login: row.login,
    name: row.name,
    role: here.find((h) => h.operatorId === row.id)!.role as Role,
    sites: roles
      .filter((r) => r.operatorId === row.id && administers(asking, r.id))
      .map(({ id, name, role }) => ({ id, name, role: role as Role })),
    mustChangePassword: row.mustChangePassword,
    closedAt: row.closedAt?.toISOString() ?? null,
  }));
}

async function one(db: Queryable, asking: SignedIn, siteId: string, id: string): Promise<Operator> {
  const [operator] = await describe(db, asking, siteId, id);
  if (!operator) throw notFound('operator');
  return operator;
}

async function checkAdministersAllSitesOf(app: App, asking: SignedIn, id: string): Promise<void> {
  for (const siteId of (await rolesOf(app.db, id)).keys())
    if (!administers(asking, siteId))
      throw forbidden(
        'This operator also works at a site that you do not administer.',
        'Ask an administrator of all of their sites.',
      );
}

const list = route({
  method: 'get',
  path: '/sites/{site}/operators',
  summary: 'The operators of a site',
  needs: 'administrator',
  answers: z.array(operatorSchema),
  handle: ({ app, operator, site }) => describe(app.db, operator, site),
});

const add = route({
  method: 'post',
  path: '/sites/{site}/operators',
  summary: 'A new operator at the site, with a first password that has to be changed',
  needs: 'administrator',
  body: newOperatorSchema,
  answers: operatorSchema,
  handle: async ({ app, operator, site, body }) => {
    const passwordHash = await hashPassword(body.password);
    try {
      return await change(app, operator, site, async (tx, record) => {
        const id = newId();
        const { login, name, role } = body;
        await tx
          .insert(tables.operators)
          .values({ id, login, name, passwordHash, mustChangePassword: true, createdAt: new Date() });
        await tx.insert(tables.operatorSites).values({ operatorId: id, siteId: site, role });
        record.trail({ action: 'operator added', subject: `operator ${login}`, after: { login, name, role } });
        record.announce('operators');
        return one(tx, operator, site, id);
      });
    } catch (error) {
      if (!isDuplicate(error)) throw error;
      throw conflict('login-taken', `The sign-in name "${body.login}" is taken.`, 'Choose another.', 'login');
    }
  },
});

const setRoles = route({
  method: 'patch',
  path: '/sites/{site}/operators/{id}',
  summary: 'Role and sites of an operator, at sites that one administers oneself',
  needs: 'administrator',
  body: operatorSitesSchema,
  answers: operatorSchema.nullable(),
  handle: async ({ app, operator, site, params, body }) => {
    const before = await one(app.db, operator, site, params.id!);
    for (const siteId of Object.keys(body.roles)) {
      if (!administers(operator, siteId)) throw notFound('site');
      if (before.id === operator.id && body.roles[siteId] !== 'administrator')
        throw invalid(
          `roles.${siteId}`,
          'You cannot take your own administrator role away.',
          'Ask another administrator.',
        );
    }
    return change(app, operator, site, async (tx, record) => {
      for (const [siteId, role] of Object.entries(body.roles)) {
        const key = { operatorId: before.id, siteId };
        if (role === null)
          await tx
            .delete(tables.operatorSites)
            .where(and(eq(tables.operatorSites.operatorId, before.id), eq(tables.operatorSites.siteId, siteId)));
        else
          await tx
            .insert(tables.operatorSites)
            .values({ ...key, role })
            .onDuplicateKeyUpdate({ set: { role } });
      }
      const [after] = await describe(tx, operator, site, before.id);
      record.trail({
        action: 'operator’s role changed',
        subject: `operator ${before.login}`,
        before: before.sites,
        after: after?.sites ?? [],
      });
      record.announce('operators');
      return after ?? null;
    });
  },
});

const reset = route({
  method: 'post',
  path: '/sites/{site}/operators/{id}/password',
  summary: 'Give an operator a new first password; ends their sessions',
  needs: 'administrator',
  body: resetPasswordSchema,
  answers: operatorSchema,
  handle: async ({ app, operator, site, params, body }) => {
    const { id, login } = await one(app.db, operator, site, params.id!);
    await checkAdministersAllSitesOf(app, operator, id);
    if (id === operator.id)
      throw invalid('password', 'Your own password is changed under your name.', 'Use "Change password".');
    const passwordHash = await hashPassword(body.password);
    return change(app, operator, site, async (tx, record) => {
      await tx
        .update(tables.operators)
        .set({ passwordHash, mustChangePassword: true })
        .where(eq(tables.operators.id, id));
      await closeSessionsOf(tx, id);
      record.trail({ action: 'password reset', subject: `operator ${login}` });
      record.announce('operators');
      return one(tx, operator, site, id);
    });
  },
});

function closing(verb: 'close' | 'reopen') {
  return route({
    method: 'post',
    path: `/sites/{site}/operators/{id}/${verb}`,
    summary: verb === 'close' ? 'Close an operator’s account; ends their sessions' : 'Open a closed account again',
    needs: 'administrator',
    answers: operatorSchema,
    handle: async ({ app, operator, site, params }) => {
      const { id, login, closedAt } = await one(app.db, operator, site, params.id!);
      await checkAdministersAllSitesOf(app, operator, id);
      if (id === operator.id) throw invalid('id', 'You cannot close your own account.', 'Ask another administrator.');
      const now = verb === 'close' ? new Date() : null;
      return change(app, operator, site, async (tx, record) => {
        await tx.update(tables.operators).set({ closedAt: now }).where(eq(tables.operators.id, id));
        if (now) await closeSessionsOf(tx, id);
        const [before, after] = [{ closed: closedAt !== null }, { closed: now !== null }];
        record.trail({
          action: now ? 'operator closed' : 'operator opened again',
          subject: `operator ${login}`,
          before,
          after,
        });
        record.announce('operators');
        return one(tx, operator, site, id);
      });
    },
  });
}

export const operatorRoutes = [list, add, setRoles, reset, closing('close'), closing('reopen')];
