/** Tokens for scripts: made, listed without their secrets, revoked. */
import { type ApiToken, type Permission, tokenApi } from '@rawbits/api';
import { and, desc, eq, isNull, type SQL } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { invalid, notFound } from '../../platform/problem/problem.ts';
import { newBearer } from '../../platform/session/bearer.ts';
import { may } from '../../platform/session/sessions.ts';
import { operatorTable, tokenTable } from '../../platform/session/tables.ts';
import { change } from '../../platform/trail/change.ts';

const DAY_MS = 86_400_000;

async function describe(db: Queryable, where: SQL | undefined): Promise<ApiToken[]> {
  const rows = await db
    .select({ token: tokenTable, madeBy: operatorTable.name })
    .from(tokenTable)
    .innerJoin(operatorTable, eq(operatorTable.id, tokenTable.operatorId))
    .where(where)
    .orderBy(desc(tokenTable.madeAt));
  return rows.map(({ token, madeBy }) => ({
    id: token.id,
    name: token.name,
    permissions: token.permissions as Permission[],
    madeBy,
    madeAt: token.madeAt.toISOString(),
    endsAt: token.endsAt.toISOString(),
    revokedAt: token.revokedAt?.toISOString() ?? null,
    usedAt: token.usedAt?.toISOString() ?? null,
  }));
}

const list = handle(tokenApi.list, ({ app, site }) => describe(app.db, eq(tokenTable.siteId, site)));

const make = handle(tokenApi.make, ({ app, operator, site, body }) => {
  const more = body.permissions.find((permission) => !may(operator, site, permission));
  if (more) throw invalid('permissions', `You may not "${more}" here yourself.`, 'Leave it out.');
  const { id, text, hash } = newBearer();
  const { name, permissions, days } = body;
  return change(app, operator, site, async (tx, record) => {
    const madeAt = new Date();
    const endsAt = new Date(madeAt.getTime() + days * DAY_MS);
    await tx
      .insert(tokenTable)
      .values({ id, siteId: site, operatorId: operator.id, name, permissions, hash, madeAt, endsAt });
    record.trail({ action: 'token made', subject: `token ${name}`, after: { id, permissions, endsAt } });
    record.announce('operators');
    const [token] = await describe(tx, eq(tokenTable.id, id));
    return { token: token!, text: text.reveal() };
  });
});

const revoke = handle(tokenApi.revoke, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const own = and(eq(tokenTable.id, params.id!), eq(tokenTable.siteId, site));
    const [token] = await tx.select().from(tokenTable).where(own).for('update');
    if (!token) throw notFound('token');
    await tx
      .update(tokenTable)
      .set({ revokedAt: new Date() })
      .where(and(own, isNull(tokenTable.revokedAt)));
    if (!token.revokedAt)
      record.trail({ action: 'token revoked', subject: `token ${token.name}`, after: { id: token.id } });
    record.announce('operators');
    return (await describe(tx, own))[0]!;
  }),
);

export const tokenRoutes = [list, make, revoke];
