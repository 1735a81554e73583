/** What a site takes up from the library, and gives up again. */

import { printLayoutLine } from '@rawbits/core/format';
import { and, eq } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import type { Record } from '../../platform/trail/change.ts';
import { cardsOfFormat } from '../cards/index.ts';
import { controllerFormatTable, controllerTable, noteFormat } from '../doors/index.ts';
import { siteFormatTable, versionsOf } from '../library/index.ts';

/** Takes up a version, in place of another where the site uses one; nothing happens when it is that already. */
export async function takeUp(
  tx: Queryable,
  record: Record,
  siteId: string,
  formatId: string,
  version: number,
  counts?: unknown,
): Promise<void> {
  const own = and(eq(siteFormatTable.siteId, siteId), eq(siteFormatTable.formatId, formatId));
  const wanted = (await versionsOf(tx, formatId)).find((v) => v.version === version);
  if (!wanted) throw notFound('version');
  const [before] = await tx.select().from(siteFormatTable).where(own).for('update');
  if (before?.version === version) return;
  if (!before && wanted.retiredAt)
    throw conflict('retired', `${wanted.format.name} is retired.`, 'Reinstate it in the library first.');
  if (before) await tx.update(siteFormatTable).set({ version }).where(own);
  else await tx.insert(siteFormatTable).values({ siteId, formatId, version });
  record.trail({
    action: before ? 'format version changed' : 'format adopted',
    subject: `format ${formatId}`,
    ...(before && { before: { version: before.version } }),
    after: { version, layout: printLayoutLine(wanted.format), ...(counts !== undefined && { dryRun: counts }) },
  });
  await noteFormat(tx, siteId, formatId);
  record.announce('formats');
  if (before) record.announce('controllers');
}

/** Gives a format up; refused while cards or controllers of the site use it. */
export async function giveUp(tx: Queryable, record: Record, siteId: string, formatId: string): Promise<void> {
  const own = and(eq(siteFormatTable.siteId, siteId), eq(siteFormatTable.formatId, formatId));
  const [row] = await tx.select().from(siteFormatTable).where(own).for('update');
  if (!row) throw notFound('format');
  const used = await cardsOfFormat(tx, siteId, formatId);
  if (used > 0)
    throw conflict('in-use', `${used} ${used === 1 ? 'card uses' : 'cards use'} this format.`, 'Withdraw them first.');
  const [wanting] = await tx
    .select({ name: controllerTable.name })
    .from(controllerFormatTable)
    .innerJoin(controllerTable, eq(controllerTable.id, controllerFormatTable.controllerId))
    .where(and(eq(controllerTable.siteId, siteId), eq(controllerFormatTable.formatId, formatId)));
  if (wanting)
    throw conflict('in-use', `The controller ${wanting.name} is to accept this format.`, 'Take it out there first.');
  await tx.delete(siteFormatTable).where(own);
  record.trail({ action: 'format given up', subject: `format ${formatId}`, before: { version: row.version } });
  record.announce('formats');
}
