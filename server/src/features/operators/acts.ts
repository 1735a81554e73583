/**
 * What is done to operators. Roles are held at each site. What touches an operator everywhere (a reset password, closing)
 * is allowed only to whoever manages operators at all of that operator's sites: otherwise somebody of one site could make
 * their way into another. Where a key custodian is concerned it takes a second person: see `approvals.ts`.
 */
import { type Operator, ROLE_PERMISSIONS, type Role, roleSchema } from '@rawbits/api';
import { and, eq, inArray, isNull, sql } from 'drizzle-orm';
import { z } from 'zod';
import { isDuplicate, newId, type Queryable } from '../../platform/database/index.ts';
import { conflict, forbidden, invalid, notFound } from '../../platform/problem/problem.ts';
import { closeSessionsOf, may, type Person, rolesOf } from '../../platform/session/sessions.ts';
import { operatorSiteTable, operatorTable } from '../../platform/session/tables.ts';
import type { Record } from '../../platform/trail/change.ts';
import { siteTable } from '../sites/index.ts';
import { describe, describeOne } from './describe.ts';

/** An act as it is carried out, or kept until somebody agrees to it. Of a password it holds the hash alone. */
export const actSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('add'),
    login: z.string(),
    name: z.string(),
    roles: z.array(roleSchema),
    passwordHash: z.string(),
  }),
  z.object({ kind: z.literal('roles'), id: z.string(), roles: z.record(z.string(), z.array(roleSchema)) }),
  z.object({ kind: z.literal('reset'), id: z.string(), passwordHash: z.string() }),
  z.object({ kind: z.literal('close'), id: z.string() }),
  z.object({ kind: z.literal('reopen'), id: z.string() }),
]);
export type Act = z.output<typeof actSchema>;

export const CUSTODIAN: Role = 'key custodian';

/** Whether an act makes somebody a key custodian, or is done to one. */
export async function concernsCustodian(db: Queryable, act: Act): Promise<boolean> {
  if (act.kind === 'add') return act.roles.includes(CUSTODIAN);
  if (act.kind === 'roles' && Object.values(act.roles).some((roles) => roles.includes(CUSTODIAN))) return true;
  const holding = and(eq(operatorSiteTable.operatorId, act.id), eq(operatorSiteTable.role, CUSTODIAN));
  return (await db.$count(operatorSiteTable, holding)) > 0;
}

/** What an act is, for whoever is asked to agree. */
export async function inWords(db: Queryable, act: Act): Promise<string> {
  if (act.kind === 'add') return `Add ${act.name} (${act.login}) as ${act.roles.join(' and ')}`;
  const [row] = await db.select().from(operatorTable).where(eq(operatorTable.id, act.id));
  const name = row?.name ?? act.id;
  if (act.kind === 'reset') return `Reset the password of ${name}`;
  if (act.kind === 'close') return `Disable the account of ${name}`;
  if (act.kind === 'reopen') return `Enable the account of ${name} again`;
  const sites = await db
    .select({ id: siteTable.id, name: siteTable.name })
    .from(siteTable)
    .where(inArray(siteTable.id, [...Object.keys(act.roles), '']));
  const each = sites.map(({ id, name: site }) => `${act.roles[id]!.join(' and ') || 'nothing'} at ${site}`);
  return `Make ${name} ${each.join(', ')}`;
}

/** Throws what forbids the act to whoever asks for it, now. */
export async function checkMay(db: Queryable, asking: Person, siteId: string, act: Act): Promise<void> {
  if (act.kind === 'add') return;
  await describeOne(db, asking, siteId, act.id);
  if (act.kind === 'roles') {
    for (const [site, roles] of Object.entries(act.roles)) {
      if (!may(asking, site, 'manage operators')) throw notFound('site');
      if (act.id === asking.id && !roles.includes('administrator'))
        throw invalid(
          `roles.${site}`,
          'You cannot take your own administrator role away.',
          'Ask another administrator.',
        );
    }
    return;
  }
  if (act.id === asking.id)
    throw act.kind === 'reset'
      ? invalid('password', 'Your own password is changed under your name.', 'Use "Change password".')
      : invalid('id', 'You cannot close your own account.', 'Ask another administrator.');
  for (const site of (await rolesOf(db, act.id)).keys())
    if (!may(asking, site, 'manage operators'))
      throw forbidden(
        'This operator also works at a site that you do not administer.',
        'Ask an administrator of all of their sites.',
      );
}

/**
 * Carries an act out, with its entries; `more` goes into them. Gives the operator as they are then, or null where they
 * are not of this site any more.
 */
export async function perform(
  tx: Queryable,
  record: Record,
  asking: Person,
  siteId: string,
  act: Act,
  more: object = {},
): Promise<Operator | null> {
  record.announce('operators');
  const [before] = act.kind === 'add' ? [] : await describe(tx, asking, siteId, act.id);
  const id = act.kind === 'add' ? await add(tx, siteId, act) : act.id;
  if (act.kind === 'roles') await setRoles(tx, record, act, before!, more);
  if (act.kind === 'reset') await reset(tx, act);
  if (act.kind === 'close' || act.kind === 'reopen') await close(tx, act);
  const [after] = await describe(tx, asking, siteId, id);
  if (act.kind !== 'roles')
    record.trail({ ...entryOf(act, before ?? after!), ...(Object.keys(more).length > 0 && { after: more }) });
  return after ?? null;
}

function entryOf(act: Exclude<Act, { kind: 'roles' }>, { login, name, roles, closedAt }: Operator) {
  const subject = `operator ${login}`;
  switch (act.kind) {
    case 'add':
      return { action: 'operator added', subject, after: { login, name, roles } };
    case 'reset':
      return { action: 'password reset', subject };
    case 'close':
      return { action: 'operator closed', subject, before: { closed: closedAt !== null }, after: { closed: true } };
    case 'reopen':
      return { action: 'operator opened again', subject, before: { closed: true }, after: { closed: false } };
  }
}

async function add(tx: Queryable, siteId: string, act: Act & { kind: 'add' }): Promise<string> {
  const id = newId();
  const { login, name, passwordHash } = act;
  try {
    await tx
      .insert(operatorTable)
      .values({ id, login, name, passwordHash, mustChangePassword: true, createdAt: new Date() });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw conflict('login-taken', `The sign-in name "${login}" is taken.`, 'Choose another.', 'login');
  }
  await tx.insert(operatorSiteTable).values(act.roles.map((role) => ({ operatorId: id, siteId, role })));
  return id;
}

/** Each site's own record has what was changed for it. */
async function setRoles(
  tx: Queryable,
  record: Record,
  { id, roles }: Act & { kind: 'roles' },
  before: Operator,
  more: object,
): Promise<void> {
  const siteIds = Object.keys(roles);
  await takeGuards(tx, siteIds);
  for (const [siteId, now] of Object.entries(roles)) {
    const was = ((await rolesOf(tx, id)).get(siteId) ?? []).sort();
    const wanted = [...new Set(now)].sort();
    await tx
      .delete(operatorSiteTable)
      .where(and(eq(operatorSiteTable.operatorId, id), eq(operatorSiteTable.siteId, siteId)));
    if (wanted.length > 0)
      await tx.insert(operatorSiteTable).values(wanted.map((role) => ({ operatorId: id, siteId, role })));
    if (was.join() !== wanted.join())
      record.trailAt(siteId, {
        action: 'operator’s role changed',
        subject: `operator ${before.login}`,
        before: was,
        after: Object.keys(more).length > 0 ? { roles: wanted, ...more } : wanted,
      });
  }
  await checkAdministered(tx, siteIds);
}

async function reset(tx: Queryable, { id, passwordHash }: Act & { kind: 'reset' }): Promise<void> {
  await tx.update(operatorTable).set({ passwordHash, mustChangePassword: true }).where(eq(operatorTable.id, id));
  await closeSessionsOf(tx, id);
}

async function close(tx: Queryable, { id, kind }: { id: string; kind: 'close' | 'reopen' }): Promise<void> {
  const siteIds = [...(await rolesOf(tx, id)).keys()];
  await takeGuards(tx, siteIds);
  const closedAt = kind === 'close' ? new Date() : null;
  await tx.update(operatorTable).set({ closedAt }).where(eq(operatorTable.id, id));
  if (!closedAt) return;
  await closeSessionsOf(tx, id);
  await checkAdministered(tx, siteIds);
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

const MANAGING = Object.entries(ROLE_PERMISSIONS).flatMap(([role, permissions]) =>
  (permissions as readonly string[]).includes('manage operators') ? [role] : [],
);

/** Throws where a site would be left without anybody to manage its operators whose account is open. */
async function checkAdministered(tx: Queryable, siteIds: readonly string[]): Promise<void> {
  for (const siteId of siteIds) {
    const [left] = await tx
      .select({ id: operatorTable.id })
      .from(operatorSiteTable)
      .innerJoin(operatorTable, eq(operatorTable.id, operatorSiteTable.operatorId))
      .where(
        and(
          eq(operatorSiteTable.siteId, siteId),
          inArray(operatorSiteTable.role, MANAGING),
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
