/** What a site takes up from the library, and gives up again. */
import { printLayoutLine } from '@rawbits/core/format';
import { and, eq } from 'drizzle-orm';
import { type Queryable, tables } from '../database/index.ts';
import { conflict, notFound } from '../http/problem.ts';
import type { Record } from '../trail/change.ts';
import { versionsOf } from './library.ts';

/** Takes up a version, in place of another where the site uses one; nothing happens when it is that already. */
export async function takeUp(
  tx: Queryable,
  record: Record,
  siteId: string,
  formatId: string,
  version: number,
  counts?: unknown,
): Promise<void> {
  const own = and(eq(tables.siteFormats.siteId, siteId), eq(tables.siteFormats.formatId, formatId));
  const wanted = (await versionsOf(tx, formatId)).find((v) => v.version === version);
  if (!wanted) throw notFound('version');
  const [before] = await tx.select().from(tables.siteFormats).where(own).for('update');
  if (before?.version === version) return;
  if (!before && wanted.retiredAt)
    throw conflict('retired', `${wanted.format.name} is retired.`, 'Reinstate it in the library first.');
  if (before) await tx.update(tables.siteFormats).set({ version }).where(own);
  else await tx.insert(tables.siteFormats).values({ siteId, formatId, version });
  record.trail({
    action: before ? 'format version changed' : 'format adopted',
    subject: `format ${formatId}`,
    ...(before && { before: { version: before.version } }),
    after: { version, layout: printLayoutLine(wanted.format), ...(counts !== undefined && { dryRun: counts }) },
  });
  record.announce('formats');
  if (before) record.announce('controllers');
}

/** Gives a format up; refused while cards or controllers of the site use it. */
export async function giveUp(tx: Queryable, record: Record, siteId: string, formatId: string): Promise<void> {
  const own = and(eq(tables.siteFormats.siteId, siteId), eq(tables.siteFormats.formatId, formatId));
  const [row] = await tx.select().from(tables.siteFormats).where(own).for('update');
  if (!row) throw notFound('format');
  const used = await tx.$count(tables.cards, and(eq(tables.cards.siteId, siteId), eq(tables.cards.formatId, formatId)));
  if (used > 0)
    throw conflict('in-use', `${used} ${used === 1 ? 'card uses' : 'cards use'} this format.`, 'Withdraw them first.');
  const [wanting] = await tx
    .select({ name: tables.controllers.name })
    .from(tables.controllerFormats)
    .innerJoin(tables.controllers, eq(tables.controllers.id, tables.controllerFormats.controllerId))
    .where(and(eq(tables.controllers.siteId, siteId), eq(tables.controllerFormats.formatId, formatId)));
  if (wanting)
    throw conflict('in-use', `The controller ${wanting.name} is to accept this format.`, 'Take it out there first.');
  await tx.delete(tables.siteFormats).where(own);
  record.trail({ action: 'format given up', subject: `format ${formatId}`, before: { version: row.version } });
  record.announce('formats');
}
