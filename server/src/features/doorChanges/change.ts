/** Renaming controllers and readers, putting another device in their place, moving readers to another controller. */
import type { Body, doorApi, Reader } from '@rawbits/api';
import { and, eq, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { jobTable } from '../../platform/jobs/index.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import type { Record } from '../../platform/trail/change.ts';
import { checkController, controllerTable, doorTable, LOAD, notePassing, readerTable } from '../doors/index.ts';
import { readerPlanTable } from '../plans/index.ts';
import { takeTurn } from '../rights/index.ts';

/** Another device holds what it holds: the next look at it finds that, and loading corrects it. */
export async function changeController(
  tx: Queryable,
  record: Record,
  siteId: string,
  id: string,
  changed: Body<typeof doorApi.change>,
): Promise<void> {
  const own = and(eq(controllerTable.id, id), eq(controllerTable.siteId, siteId));
  const [before] = await tx.select().from(controllerTable).where(own).for('update');
  if (!before) throw notFound('controller');
  const { name, device } = { ...before, ...changed };
  const running = and(eq(jobTable.kind, LOAD), eq(jobTable.subject, id), eq(jobTable.state, 'running'));
  if (device !== before.device && (await tx.$count(jobTable, running)) > 0)
    throw conflict('load-running', `${before.name} is being loaded.`, 'Wait until it is done, or stop that load.');
  await tx.update(controllerTable).set({ name, device }).where(own);
  record.trail({
    action: 'controller changed',
    subject: `controller ${name}`,
    before: { id, name: before.name, device: before.device },
    after: { id, name, device },
  });
  record.announce('controllers');
}

export async function changeReader(
  tx: Queryable,
  record: Record,
  siteId: string,
  id: string,
  changed: Body<typeof doorApi.changeReader>,
): Promise<Reader> {
  await takeTurn(tx, siteId);
  const own = and(eq(readerTable.id, id), eq(readerTable.siteId, siteId));
  const [before] = await tx.select().from(readerTable).where(own);
  if (!before) throw notFound('reader');
  const { name, device } = { ...before, ...changed };
  await tx.update(readerTable).set({ name, device }).where(own);
  const { controllerId = before.controllerId } = changed;
  // What the former device was given is not in the new one.
  if (device !== before.device) {
    const plan = eq(readerPlanTable.readerId, id);
    if ((await tx.$count(readerPlanTable, plan)) > 0)
      record.trail({ action: 'reader set back', subject: `reader ${name}`, after: { device } });
    await tx.delete(readerPlanTable).where(plan);
  }
  const isMoved = controllerId !== null && controllerId !== before.controllerId;
  if (isMoved) await moveReader(tx, before, controllerId);
  // The door items of a controller name the devices at it; a name of a reader is in none of them.
  if (isMoved || (before.doorId !== null && device !== before.device)) await notePassing(tx, siteId);
  const [row] = await tx.select().from(readerTable).where(own);
  const noted = (reader: typeof before) => {
    const { siteId: _, ...rest } = reader;
    return rest;
  };
  record.trail({
    action: 'reader changed',
    subject: `reader ${name}`,
    before: noted(before),
    after: noted(row!),
  });
  record.announce('controllers');
  return { ...row!, kind: row!.kind as Reader['kind'], way: row!.way as Reader['way'] };
}

/** The door goes along, with its other reader and with who may pass it; a reader for enrolment gets a door of its own. */
async function moveReader(tx: Queryable, reader: typeof readerTable.$inferSelect, controllerId: string): Promise<void> {
  const { id, siteId, name, doorId } = reader;
  await checkController(tx, siteId, controllerId);
  if (doorId === null) {
    await tx.insert(doorTable).values({ id, siteId, controllerId, name, byGroups: false });
    await tx.update(readerTable).set({ controllerId, doorId: id, kind: 'door' }).where(eq(readerTable.id, id));
    return;
  }
  await tx.update(doorTable).set({ controllerId, revision: sql`revision + 1` }).where(eq(doorTable.id, doorId));
  await tx.update(readerTable).set({ controllerId }).where(eq(readerTable.doorId, doorId));
}
