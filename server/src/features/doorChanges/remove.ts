/** Removes a controller or a reader, with what hangs on it, in one transaction. */
import type { Removal } from '@rawbits/api';
import type { AccessAssertion } from '@rawbits/core/access/rights';
import { and, eq, inArray, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { endJob, insertJob, type JobRow, jobTable, tell } from '../../platform/jobs/index.ts';
import { conflict } from '../../platform/problem/problem.ts';
import { change, type Record, type Who } from '../../platform/trail/change.ts';
import {
  checkMoved,
  controllerFormatTable,
  controllerItemTable,
  controllerTable,
  controllerWantTable,
  doorTable,
  formerDeviceTable,
  LOAD,
  MARKING,
  notePassing,
  readerTable,
} from '../doors/index.ts';
import { readerPlanTable } from '../plans/index.ts';
import { armedReaderTable } from '../reads/index.ts';
import { accessGroupTable, assertionTable, takeTurn } from '../rights/index.ts';
import { controllerLeaving, type Leaving, readerLeaving } from './leaving.ts';

/** The kind of the job that deletes what a removed controller was to have, a card a row. */
export const CLEARING_ITEMS = 'clearing items';
const PIECE = 1000;

interface Asked {
  site: string;
  id: string;
  /** The digest of what was shown. */
  seen: string;
}

/** Throws where it is not any more as it was shown, or something is being sent to the controller. */
export async function remove(app: App, who: Who, what: Leaving['leaver']['kind'], asked: Asked): Promise<Removal> {
  const { site, id, seen } = asked;
  const { removal, job } = await change(app, who, site, async (tx, record) => {
    await takeTurn(tx, site);
    const leaving = await (what === 'controller' ? controllerLeaving : readerLeaving)(tx, site, id);
    if (leaving.removal.digest !== seen)
      throw conflict(
        'changed-since',
        `What hangs on ${leaving.removal.name} has changed since it was shown.`,
        'Look at it again, then remove it.',
      );
    await takeOut(tx, record, site, leaving);
    const job = what === 'controller' ? await takeOutController(tx, who, site, id, leaving) : undefined;
    if (leaving.readers.some(({ doorId }) => doorId !== null)) await notePassing(tx, site);
    note(record, leaving);
    return { removal: leaving.removal, job };
  });
  if (job) app.jobs.begin(job);
  return removal;
}

/** Takes out readers and doors, and the doors out of the groups and assertions that name them. */
async function takeOut(tx: Queryable, record: Record, site: string, { leaver, readers, doors, ...named }: Leaving) {
  for (const { id, name, rights } of named.groups) {
    const own = and(eq(accessGroupTable.id, id), eq(accessGroupTable.siteId, site));
    const [before] = await tx.select().from(accessGroupTable).where(own);
    await tx
      .update(accessGroupTable)
      .set({ rights: JSON.stringify(rights), revision: sql`revision + 1` })
      .where(own);
    record.trail({
      action: 'access group changed',
      subject: `access group ${name}`,
      before: { id, name, rights: JSON.parse(before!.rights) },
      after: { id, name, rights },
    });
  }
  for (const { row, doors: left } of named.assertions) {
    const before = JSON.parse(row.definition) as AccessAssertion;
    const own = eq(assertionTable.id, row.id);
    const after = { ...before, doors: left };
    if (left.length === 0) await tx.delete(assertionTable).where(own);
    else
      await tx
        .update(assertionTable)
        .set({ definition: JSON.stringify(after), revision: sql`revision + 1` })
        .where(own);
    record.trail({
      action: left.length === 0 ? 'assertion removed' : 'assertion changed',
      subject: `assertion ${row.name}`,
      before,
      after: left.length === 0 ? undefined : after,
    });
  }
  const readerIds = readers.map(({ id }) => id);
  if (readerIds.length > 0) {
    await tx.delete(readerPlanTable).where(inArray(readerPlanTable.readerId, readerIds));
    await tx.delete(armedReaderTable).where(inArray(armedReaderTable.readerId, readerIds));
    await tx.delete(readerTable).where(inArray(readerTable.id, readerIds));
  }
  const doorIds = doors.map(({ id }) => id);
  if (doorIds.length > 0) await tx.delete(doorTable).where(inArray(doorTable.id, doorIds));
  const former = [
    ...readers.map(({ id, name }) => ({ id, name, kind: 'reader' })),
    ...(leaver.kind === 'controller' ? [{ ...leaver.controller, kind: 'controller' }] : []),
  ];
  const removedAt = new Date();
  await tx
    .insert(formerDeviceTable)
    .values(former.map(({ id, name, kind }) => ({ id, siteId: site, kind, name, removedAt })));
}

async function takeOutController(
  tx: Queryable,
  who: Who,
  siteId: string,
  id: string,
  { removal }: Leaving,
): Promise<JobRow> {
  await checkMoved(tx, siteId);
  await tx.select({ id: controllerTable.id }).from(controllerTable).where(eq(controllerTable.id, id)).for('update');
  const busy = and(eq(jobTable.subject, id), inArray(jobTable.kind, [LOAD, MARKING]), eq(jobTable.state, 'running'));
  // A locking read: what has begun since this transaction did counts, too.
  if ((await tx.select({ id: jobTable.id }).from(jobTable).where(busy).for('update')).length > 0)
    throw conflict('load-running', `${removal.name} is being loaded.`, 'Wait until it is done, or stop that load.');
  await tx.delete(controllerFormatTable).where(eq(controllerFormatTable.controllerId, id));
  await tx.delete(controllerWantTable).where(eq(controllerWantTable.controllerId, id));
  await tx.delete(controllerTable).where(eq(controllerTable.id, id));
  return insertJob(tx, { siteId, kind: CLEARING_ITEMS, subject: id, input: {}, startedBy: who.name });
}

/** Deletes the items of a removed controller in pieces: they are as many as its cards. */
export const carryClearingItems =
  (app: () => App) =>
  async (job: JobRow): Promise<void> => {
    const { db } = app();
    for (let more = true; more; ) {
      const own = eq(controllerItemTable.controllerId, job.subject);
      const [gone] = await db.delete(controllerItemTable).where(own).limit(PIECE);
      more = gone.affectedRows === PIECE;
      await tell(db, job);
    }
    await endJob(db, job, 'done');
  };

function note(record: Record, { leaver, removal }: Leaving): void {
  const { name, digest: _, ...with_ } = removal;
  const row = leaver.kind === 'controller' ? leaver.controller : leaver.reader;
  record.trail({
    action: `${leaver.kind} removed`,
    subject: `${leaver.kind} ${name}`,
    before: { id: row.id, name, device: row.device, ...with_ },
  });
  record.announce('controllers');
  record.announce('access');
}
