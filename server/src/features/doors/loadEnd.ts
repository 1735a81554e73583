/** How a load ends: what it sent is what the controller has now, or the controller is as it was. */
import { eq } from 'drizzle-orm';
import { newId, type Queryable } from '../../platform/database/index.ts';
import { endJob, tell } from '../../platform/jobs/index.ts';
import { change, type Record } from '../../platform/trail/change.ts';
import { type Carrying, memoOf } from './carrying.ts';
import { loadedFormats } from './items.ts';
import { lastOfMany, settleSent } from './outbox.ts';
import { type ControllerRow, controllerTable, eventTable } from './tables.ts';

/** Items noted as loaded in one transaction; what a load sent beyond them is noted before, in pieces of as many. */
const SETTLED_AT_ONCE = 2000;

/** The load took force: what it sent is what the controller has. */
export async function finish({ app, who, controller, load }: Carrying): Promise<void> {
  // Of a large one all but the last are noted before; whoever goes on with it finds the rest.
  let after = '';
  for (;;) {
    const last = await lastOfMany(app.db, controller.id, load.id, after, SETTLED_AT_ONCE);
    if (last === undefined) break;
    await tell(app.db, load);
    await change(app, who, controller.siteId, async (tx) => {
      await addLoadedCards(tx, controller.id, await settleSent(tx, controller.id, load.id, after, last));
    });
    after = last;
  }
  await change(app, who, controller.siteId, async (tx, record) => {
    const cards = await addLoadedCards(tx, controller.id, await settleSent(tx, controller.id, load.id, after));
    const formats = await loadedFormats(tx, controller.id);
    const reason = `In force: ${counted(formats.length, 'format')}, ${counted(cards, 'card')}.`;
    if (!(await endJob(tx, load, 'done', { message: reason }))) return;
    const now = new Date();
    await tx
      .update(controllerTable)
      .set({ loadedDigest: memoOf(load).digest, loadedAt: now })
      .where(eq(controllerTable.id, controller.id));
    await noteEvent(tx, controller, 'loaded', reason, now);
    record.trail({
      action: 'controller loaded',
      subject: `controller ${controller.name}`,
      before: controller.loadedAt && { digest: controller.loadedDigest },
      after: { formats, cards, changes: load.done, digest: memoOf(load).digest },
    });
    announce(record, controller);
    record.announce('cards');
  });
}

const counted = (n: number, what: string): string => `${n} ${n === 1 ? what : `${what}s`}`;

/** Adds to how many cards a controller holds, and gives how many it does. */
async function addLoadedCards(tx: Queryable, controllerId: string, more: number): Promise<number> {
  const mine = eq(controllerTable.id, controllerId);
  const [row] = await tx.select({ cards: controllerTable.loadedCards }).from(controllerTable).where(mine).for('update');
  const cards = (row?.cards ?? 0) + more;
  if (more !== 0) await tx.update(controllerTable).set({ loadedCards: cards }).where(mine);
  return cards;
}

export function giveUp({ app, who, controller, load }: Carrying, message: string): Promise<void> {
  return change(app, who, controller.siteId, async (tx, record) => {
    const reason = `The load stopped: ${message} What the controller had is unchanged.`;
    if (!(await endJob(tx, load, 'failed', { message: reason }))) return;
    await noteEvent(tx, controller, 'load failed', reason, new Date());
    record.trail({ action: 'load failed', subject: `controller ${controller.name}`, after: { message } });
    announce(record, controller);
  });
}

export const noteEvent = (tx: Queryable, controller: ControllerRow, kind: string, reason: string, at: Date) =>
  tx
    .insert(eventTable)
    .values({ id: newId(), siteId: controller.siteId, at, kind, controllerId: controller.id, reason });

function announce(record: Record, controller: ControllerRow): void {
  record.announce('controllers', { ids: [controller.id] });
  record.announce('event');
}
