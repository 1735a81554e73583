/** Which formats a controller is to accept. */

import { and, eq, inArray } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import type { JobRow } from '../../platform/jobs/index.ts';
import { conflict, invalid, notFound } from '../../platform/problem/problem.ts';
import type { Record } from '../../platform/trail/change.ts';
import { cardsForDoors } from '../cards/index.ts';
import { adoptedFormats } from '../library/index.ts';
import { noteFormat, noteGone } from './items.ts';
import { mark } from './marking.ts';
import { controllerFormatTable, controllerTable } from './tables.ts';

/** Without a dry run nothing may go that cards of the site need: they would be refused unseen. */
async function checkNobodyRefused(
  tx: Queryable,
  siteId: string,
  controllerId: string,
  gone: readonly string[],
): Promise<void> {
  if (gone.length === 0) return;
  const cards = [...(await cardsForDoors(tx, siteId, gone)).values()].reduce((sum, n) => sum + n, 0);
  if (cards > 0)
    throw conflict(
      'dry-run-first',
      `${cards} ${cards === 1 ? 'card' : 'cards'} of the site may need ${gone.join(', ')} at this controller.`,
      `Make a dry run of the change {"kind":"accept","controller":"${controllerId}",…} and save that.`,
      'formats',
    );
}

/** Two formats of one length may take a card for two people's: whom for whom is shown first. */
function checkLengths(
  bits: ReadonlyMap<string, number>,
  wanted: readonly string[],
  added: readonly string[],
  controllerId: string,
): void {
  for (const id of added) {
    const other = wanted.find((one) => one !== id && bits.get(one) === bits.get(id));
    if (other === undefined) continue;
    throw conflict(
      'dry-run-first',
      `${id} has ${bits.get(id)} bits like ${other}: a card of one may be taken for a card of the other.`,
      `Make a dry run of the change {"kind":"accept","controller":"${controllerId}",…} and save that.`,
      'formats',
    );
  }
}

/**
 * Sets what a controller is to accept; it reaches the controller with the next load. `counts` are those of the dry run
 * that showed it. Gives the jobs that mark its cards, to be begun once this is committed.
 */
export async function setAccepted(
  tx: Queryable,
  record: Record,
  who: string,
  { siteId, controllerId, formats }: { siteId: string; controllerId: string; formats: readonly string[] },
  counts?: unknown,
): Promise<JobRow[]> {
  const wanted = [...new Set(formats)].sort();
  const adopted = new Map((await adoptedFormats(tx, siteId)).map(({ format }) => [format.id, format.bits]));
  const foreign = wanted.find((id) => !adopted.has(id));
  if (foreign !== undefined)
    throw invalid('formats', `The site has not adopted the format "${foreign}".`, 'Adopt it under Formats first.');
  const [controller] = await tx
    .select()
    .from(controllerTable)
    .where(and(eq(controllerTable.id, controllerId), eq(controllerTable.siteId, siteId)))
    .for('update');
  if (!controller) throw notFound('controller');
  const own = eq(controllerFormatTable.controllerId, controllerId);
  const before = (await tx.select().from(controllerFormatTable).where(own)).map((row) => row.formatId).sort();
  if (before.join() === wanted.join()) return [];
  const gone = before.filter((id) => !wanted.includes(id));
  if (counts === undefined) await checkNobodyRefused(tx, siteId, controllerId, gone);
  const added = wanted.filter((id) => !before.includes(id));
  if (counts === undefined) checkLengths(adopted, wanted, added, controllerId);
  if (gone.length > 0)
    await tx.delete(controllerFormatTable).where(and(own, inArray(controllerFormatTable.formatId, gone)));
  for (const formatId of gone) await noteGone(tx, controllerId, formatId);
  for (const formatId of added) {
    await tx.insert(controllerFormatTable).values({ controllerId, formatId });
    await noteFormat(tx, siteId, formatId);
  }
  const jobs: JobRow[] = [];
  for (const formatId of [...gone, ...added]) jobs.push(...(await mark(tx, who, { siteId, controllerId, formatId })));
  record.trail({
    action: 'accepted formats changed',
    subject: `controller ${controller.name}`,
    before,
    after: counts === undefined ? wanted : { formats: wanted, dryRun: counts },
  });
  record.announce('controllers', { ids: [controllerId] });
  record.announce('cards');
  if (jobs.length > 0) record.announce('work');
  return jobs;
}
