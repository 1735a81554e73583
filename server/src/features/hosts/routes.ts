/** Device hosts of a site: added with a token of their own, listed, revoked. */
import { randomBytes } from 'node:crypto';
import { type DeviceHost, hostApi } from '@rawbits/api';
import { and, asc, eq, isNull } from 'drizzle-orm';
import { hashOfToken, isBeside, isConnected } from '../../devices/hosts.ts';
import { allowedOf, hostMark, offeredBy } from '../../devices/offering.ts';
import { deviceHostTable, type HostRow } from '../../devices/tables.ts';
import { newId } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { markRow } from '../../platform/marks/index.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';

const describe = (row: HostRow): DeviceHost => ({
  id: row.id,
  name: row.name,
  kind: row.kind as DeviceHost['kind'],
  beside: isBeside(row),
  connected: row.revokedAt === null && isConnected(row),
  heardAt: row.heardAt?.toISOString() ?? null,
  allows: allowedOf(row),
  devices: offeredBy(row),
  madeBy: row.madeBy,
  madeAt: row.madeAt.toISOString(),
  revokedAt: row.revokedAt?.toISOString() ?? null,
});

const list = handle(hostApi.list, async ({ app, site }) => {
  const rows = await app.db
    .select()
    .from(deviceHostTable)
    .where(eq(deviceHostTable.siteId, site))
    .orderBy(asc(deviceHostTable.madeAt));
  return rows.map(describe);
});

const add = handle(hostApi.add, ({ app, operator, site, body }) => {
  const token = `rawbits-host_${randomBytes(32).toString('base64url')}`;
  return change(app, operator, site, async (tx, record) => {
    const own = and(eq(deviceHostTable.siteId, site), eq(deviceHostTable.name, body.name));
    if ((await tx.$count(deviceHostTable, and(own, isNull(deviceHostTable.revokedAt)))) > 0)
      throw conflict('host-named', `A host called "${body.name}" is on file here already.`, undefined, 'name');
    const id = newId();
    const values = { id, siteId: site, ...body, madeBy: operator.name, madeAt: new Date(), offers: [] };
    await tx.insert(deviceHostTable).values({ ...values, tokenHash: hashOfToken(token) });
    record.trail({
      action: 'device host added',
      subject: `device host ${body.name}`,
      after: { id, kind: body.kind, allows: body.allows },
    });
    record.announce('controllers');
    const [row] = await tx.select().from(deviceHostTable).where(eq(deviceHostTable.id, id));
    await markRow(app, tx, site, { kind: 'device host', ...hostMark(row!) });
    return { host: describe(row!), token };
  });
});

const revoke = handle(hostApi.revoke, async ({ app, operator, site, params }) => {
  const own = and(eq(deviceHostTable.id, params.id!), eq(deviceHostTable.siteId, site));
  const revoked = await change(app, operator, site, async (tx, record) => {
    const [host] = await tx.select().from(deviceHostTable).where(own).for('update');
    if (!host) throw notFound('device host');
    if (isBeside(host))
      throw conflict(
        'rig-beside',
        'This rig runs beside the server and could not dial in again.',
        'Stop it where it runs.',
      );
    if (host.revokedAt) return describe(host);
    await tx.update(deviceHostTable).set({ revokedAt: new Date() }).where(own);
    await markRow(app, tx, site, { kind: 'device host', ...hostMark({ ...host, revokedAt: new Date() }) });
    record.trail({ action: 'device host revoked', subject: `device host ${host.name}`, after: { id: host.id } });
    record.announce('controllers');
    return describe({ ...host, revokedAt: new Date() });
  });
  // A line to another server is closed there, at its next look.
  await app.devices.hosts.refresh(params.id!);
  return revoked;
});

export const hostRoutes = [list, add, revoke];
