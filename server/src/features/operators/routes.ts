/**
 * Operators: who may work at a site, and as what. Roles are held at each site. What touches an operator everywhere (a
 * reset password, closing) is allowed only to whoever is administrator at all of that operator's sites: otherwise the
 * administrator of one site could make their way into another.
 */

import { type Operator, operatorApi, type Role } from '@rawbits/api';
import { and, eq, inArray, isNull, sql } from 'drizzle-orm';
import { isDuplicate, newId, type Queryable } from '../../platform/database/index.ts';
import { type App, handle } from '../../platform/http/app.ts';
import { conflict, forbidden, invalid, notFound } from '../../platform/problem/problem.ts';
import { checkPassword } from '../../platform/session/passwordRules.ts';
import { hashPassword } from '../../platform/session/passwords.ts';
import type { SignedIn } from '../../platform/session/sessions.ts';
import { closeSessionsOf, rolesOf } from '../../platform/session/sessions.ts';
import { operatorSiteTable, operatorTable } from '../../platform/session/tables.ts';
import { change } from '../../platform/trail/change.ts';
import { siteTable } from '../sites/index.ts';

const administers = (operator: SignedIn, siteId: string): boolean => operator.roles.get(siteId) === 'administrator';

async function describe(db: Queryable, asking: SignedIn, siteId: string, only?: string): Promise<Operator[]> {
  const here = await db.select().from(operatorSiteTable).where(eq(operatorSiteTable.siteId, siteId));
  const ids = here.map((row) => row.operatorId).filter((id) => only === undefined || id === only);
  if (ids.length === 0) return [];
  const rows = await db.select().from(operatorTable).where(inArray(operatorTable.id, ids)).orderBy(operatorTable.name);
  const roles = await db
    .select({
      operatorId: operatorSiteTable.operatorId,
      id: siteTable.id,
      name: siteTable.name,
      role: operatorSiteTable.role,
    })
    .from(operatorSiteTable)
    .innerJoin(siteTable, eq(siteTable.id, operatorSiteTable.siteId))
    .where(inArray(operatorSiteTable.operatorId, ids));
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

/**
 * Takes the guards of sites, always in one order: whoever changes administrators there waits for the other. The row is
 * written and not only locked, as a lock alone does not hold on the other nodes of a cluster.
 */
async function takeGuards(tx: Queryable, siteIds: readonly string[]): Promise<void> {
  for (const id of [...siteIds].sort())
    await tx
      .update(siteTable)
      .set({ guard: sql`${siteTable.guard} + 1` })
      .where(eq(siteTable.id, id));
}

/** Throws where a site would be left without an administrator whose account is open. */
async function checkAdministered(tx: Queryable, siteIds: readonly string[]): Promise<void> {
  for (const siteId of siteIds) {
    const [left] = await tx
      .select({ id: operatorTable.id })
      .from(operatorSiteTable)
      .innerJoin(operatorTable, eq(operatorTable.id, operatorSiteTable.operatorId))
      .where(
        and(
          eq(operatorSiteTable.siteId, siteId),
          eq(operatorSiteTable.role, 'administrator'),
          isNull(operatorTable.closedAt),
        ),
      )
      .limit(1);
    if (!left)
      throw conflict(
        'last-administrator',
        'This would leave the site without an administrator.',
        'Make somebody else administrator first.',
      );
  }
}

const list = handle(operatorApi.list, ({ app, operator, site }) => describe(app.db, operator, site));

const add = handle(operatorApi.add, async ({ app, operator, site, body }) => {
  checkPassword(body.password, body);
  const passwordHash = await hashPassword(body.password);
  try {
    return await change(app, operator, site, async (tx, record) => {
      const id = newId();
      const { login, name, role } = body;
      await tx
        .insert(operatorTable)
        .values({ id, login, name, passwordHash, mustChangePassword: true, createdAt: new Date() });
      await tx.insert(operatorSiteTable).values({ operatorId: id, siteId: site, role });
      record.trail({ action: 'operator added', subject: `operator ${login}`, after: { login, name, role } });
      record.announce('operators');
      return one(tx, operator, site, id);
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw conflict('login-taken', `The sign-in name "${body.login}" is taken.`, 'Choose another.', 'login');
  }
});

const setRoles = handle(operatorApi.setRoles, async ({ app, operator, site, params, body }) => {
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
  const changed = await change(app, operator, site, async (tx, record) => {
    const siteIds = Object.keys(body.roles);
    await takeGuards(tx, siteIds);
    for (const [siteId, role] of Object.entries(body.roles)) {
      const key = { operatorId: before.id, siteId };
      if (role === null)
        await tx
          .delete(operatorSiteTable)
          .where(and(eq(operatorSiteTable.operatorId, before.id), eq(operatorSiteTable.siteId, siteId)));
      else
        await tx
          .insert(operatorSiteTable)
          .values({ ...key, role })
          .onDuplicateKeyUpdate({ set: { role } });
    }
    await checkAdministered(tx, siteIds);
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
  await app.live.checkNow();
  return changed;
});

const reset = handle(operatorApi.reset, async ({ app, operator, site, params, body }) => {
  const { id, login, name } = await one(app.db, operator, site, params.id!);
  await checkAdministersAllSitesOf(app, operator, id);
  checkPassword(body.password, { login, name });
  if (id === operator.id)
    throw invalid('password', 'Your own password is changed under your name.', 'Use "Change password".');
  const passwordHash = await hashPassword(body.password);
  const changed = await change(app, operator, site, async (tx, record) => {
    await tx.update(operatorTable).set({ passwordHash, mustChangePassword: true }).where(eq(operatorTable.id, id));
    await closeSessionsOf(tx, id);
    record.trail({ action: 'password reset', subject: `operator ${login}` });
    record.announce('operators');
    return one(tx, operator, site, id);
  });
  await app.live.checkNow();
  return changed;
});

function closing(verb: 'close' | 'reopen') {
  return handle(operatorApi[verb], async ({ app, operator, site, params }) => {
    const { id, login, closedAt } = await one(app.db, operator, site, params.id!);
    await checkAdministersAllSitesOf(app, operator, id);
    if (id === operator.id) throw invalid('id', 'You cannot close your own account.', 'Ask another administrator.');
    const now = verb === 'close' ? new Date() : null;
    const changed = await change(app, operator, site, async (tx, record) => {
      const siteIds = [...(await rolesOf(tx, id)).keys()];
      await takeGuards(tx, siteIds);
      await tx.update(operatorTable).set({ closedAt: now }).where(eq(operatorTable.id, id));
      if (now) await closeSessionsOf(tx, id);
      if (now) await checkAdministered(tx, siteIds);
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
    await app.live.checkNow();
    return changed;
  });
}

export const operatorRoutes = [list, add, setRoles, reset, closing('close'), closing('reopen')];
