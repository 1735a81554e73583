/** Operators as the API gives them, to whoever may manage them at a site. */
import type { Operator, Role } from '@rawbits/api';
import { eq, inArray } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { notFound } from '../../platform/problem/problem.ts';
import { may, type Person } from '../../platform/session/sessions.ts';
import { operatorSiteTable, operatorTable } from '../../platform/session/tables.ts';
import { siteTable } from '../sites/index.ts';

export async function describe(db: Queryable, asking: Person, siteId: string, only?: string): Promise<Operator[]> {
  const here = await db
    .selectDistinct({ operatorId: operatorSiteTable.operatorId })
    .from(operatorSiteTable)
    .where(eq(operatorSiteTable.siteId, siteId));
  const ids = here.map((row) => row.operatorId).filter((id) => only === undefined || id === only);
  if (ids.length === 0) return [];
  const rows = await db.select().from(operatorTable).where(inArray(operatorTable.id, ids)).orderBy(operatorTable.name);
  const held = await db
    .select({
      operatorId: operatorSiteTable.operatorId,
      id: siteTable.id,
      name: siteTable.name,
      role: operatorSiteTable.role,
    })
    .from(operatorSiteTable)
    .innerJoin(siteTable, eq(siteTable.id, operatorSiteTable.siteId))
    .where(inArray(operatorSiteTable.operatorId, ids));
  const rolesAt = (operatorId: string, site: string): Role[] =>
    held.filter((role) => role.operatorId === operatorId && role.id === site).map(({ role }) => role as Role);
  return rows.map((row) => {
    const sites = new Map(held.filter((role) => role.operatorId === row.id).map(({ id, name }) => [id, name]));
    return {
      id: row.id,
      login: row.login,
      name: row.name,
      roles: rolesAt(row.id, siteId),
      sites: [...sites]
        .filter(([id]) => may(asking, id, 'manage operators'))
        .map(([id, name]) => ({ id, name, roles: rolesAt(row.id, id) })),
      mustChangePassword: row.mustChangePassword,
      closedAt: row.closedAt?.toISOString() ?? null,
    };
  });
}

export async function describeOne(db: Queryable, asking: Person, siteId: string, id: string): Promise<Operator> {
  const [operator] = await describe(db, asking, siteId, id);
  if (!operator) throw notFound('operator');
  return operator;
}
