/** Which site a rig belongs to that says it was set up for one, or for none. */
import { and, eq, isNull } from 'drizzle-orm';
import { besideId, hashOfToken } from '../../devices/hosts.ts';
import { hostMark } from '../../devices/offering.ts';
import { deviceHostTable, type HostRow } from '../../devices/tables.ts';
import type { Database } from '../../platform/database/index.ts';
import { markRow } from '../../platform/marks/index.ts';
import type { TrailKeeper } from '../../platform/trail/keeper.ts';
import { siteTable } from '../sites/index.ts';

/** Puts the rig that runs beside a server on file, by its token; gives its host. */
export async function rigBeside(db: Database, trail: TrailKeeper, token: string): Promise<string> {
  const tokenHash = hashOfToken(token);
  const id = besideId(tokenHash);
  await db
    .insert(deviceHostTable)
    .ignore()
    .values({ id, name: 'Rig', kind: 'rig', tokenHash, madeBy: 'bin/start', madeAt: new Date(), offers: [] });
  // Marked as it has to be, whatever stands in the database: its token is this server's own.
  const mark = hostMark({ id, tokenHash, kind: 'rig', allows: null, revokedAt: null });
  await markRow({ trail }, db, null, { kind: 'device host', ...mark });
  return id;
}

/**
 * A rig that was set up before hosts dialled in belongs to the site that it was set up for; one from before rigs belonged
 * to a site, to the one site that has one. All others belong to nobody until somebody takes them in.
 */
export async function siteFor(db: Database, { kind }: HostRow, theirs: string | null): Promise<string | null> {
  if (kind !== 'rig') return null;
  const having = (await db.select({ id: siteTable.id }).from(siteTable).where(eq(siteTable.hasRig, true))).map(
    ({ id }) => id,
  );
  if (theirs !== null) return having.includes(theirs) ? theirs : null;
  const taken = await db.$count(
    deviceHostTable,
    and(eq(deviceHostTable.kind, 'rig'), isNull(deviceHostTable.revokedAt)),
  );
  return having.length === 1 && taken === 1 ? having[0]! : null;
}
