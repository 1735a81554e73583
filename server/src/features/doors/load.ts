/**
 * Loading a controller: what waits goes over item by item in pieces; the controller puts it in force only when all of it
 * has come and the digest of what it would then hold agrees, so that a broken load changes nothing. A load of k changes
 * costs k. One whose server stopped is gone on with by another, where it stopped; whether it took force is asked of the
 * device whenever that is not known: it is never told otherwise.
 */
import type { Load } from '@rawbits/api';
import { carried, EMPTY_DIGEST } from '@rawbits/core/access';
import { and, eq } from 'drizzle-orm';
import { HostRefusal } from '../../devices/line.ts';
import { inTransaction } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { endJob, insertJob, type JobRow, jobTable, LostJob, tell } from '../../platform/jobs/index.ts';
import { conflict, HttpProblem, notFound } from '../../platform/problem/problem.ts';
import { sentenceFor } from '../../platform/problem/sentence.ts';
import { change, type Who } from '../../platform/trail/change.ts';
import { type Carrying, LOAD, type LoadMemo, memoOf } from './carrying.ts';
import { reconcile } from './compare.ts';
import { describeLoad } from './describe.ts';
import { waitingCount } from './items.ts';
import { finish, giveUp, noteEvent } from './loadEnd.ts';
import { nextOutgoing, noteSent, type Outgoing, sentHashes, unsendAfter } from './outbox.ts';
import { type ControllerRow, controllerTable } from './tables.ts';
import { checkMarked } from './underWay.ts';

/** Begins a load and returns at once; throws when the device cannot be reached or a load is under way. */
export async function startLoad(app: App, who: Who, siteId: string, controllerId: string): Promise<Load> {
  // A lost load of this controller is gone on with, while the device can still tell.
  await app.jobs.takeUpLost().catch((error) => app.log.warn({ err: error }, 'lost loads could not be settled'));
  const load = await change(app, who, siteId, async (tx, record) => {
    const own = and(eq(controllerTable.id, controllerId), eq(controllerTable.siteId, siteId));
    // Held, so that it is not removed beside this.
    const [controller] = await tx.select().from(controllerTable).where(own).for('update');
    if (!controller) throw notFound('controller');
    await checkMarked(tx, controller);
    const running = and(eq(jobTable.kind, LOAD), eq(jobTable.subject, controllerId), eq(jobTable.state, 'running'));
    if ((await tx.$count(jobTable, running)) > 0) throw beingLoaded(controller);
    const load = await insertJob(tx, {
      siteId,
      kind: LOAD,
      subject: controllerId,
      // Of several servers that begin one at once, on any nodes of a cluster, one can write this.
      slot: `${LOAD} ${controllerId}`,
      total: await waitingCount(tx, controllerId),
      input: { by: { id: who.id, name: who.name } },
      memo: { digest: '' } satisfies LoadMemo,
      startedBy: who.name,
    }).catch((error) => {
      throw error instanceof HttpProblem ? beingLoaded(controller) : error;
    });
    record.announce('load', { controllerId, ...describeLoad(load) });
    return load;
  });
  app.jobs.begin(load);
  return describeLoad(load);
}

const beingLoaded = ({ name }: ControllerRow) =>
  conflict('load-running', `${name} is being loaded already.`, 'Wait until it is done, or stop that load.');

/** Stops a load that is still being sent: what the controller has stays as it is. */
export async function cancelLoad(app: App, who: Who, siteId: string, controllerId: string): Promise<void> {
  await change(app, who, siteId, async (tx, record) => {
    const own = and(eq(controllerTable.id, controllerId), eq(controllerTable.siteId, siteId));
    const [controller] = await tx.select().from(controllerTable).where(own);
    if (!controller) throw notFound('controller');
    const running = and(eq(jobTable.kind, LOAD), eq(jobTable.subject, controllerId), eq(jobTable.state, 'running'));
    const [load] = await tx.select().from(jobTable).where(running).for('update');
    if (!load) throw conflict('no-load', `${controller.name} is not being loaded.`);
    if (memoOf(load).digest !== '')
      throw conflict('taking-force', 'All of it has been sent, and it is taking force.', 'Wait until it is done.');
    const reason = `${who.name} stopped the load. What the controller had is unchanged.`;
    if (!(await endJob(tx, load, 'cancelled', { message: reason }))) return;
    await noteEvent(tx, controller, 'load failed', reason, new Date());
    record.trail({ action: 'load stopped', subject: `controller ${controller.name}`, after: { sent: load.done } });
    record.announce('controllers', { ids: [controller.id] });
    record.announce('event');
  });
}

/** Carries a load to its end, from wherever it is; throws LostJob where it is carried on elsewhere. */
export const carryLoad =
  (app: () => App) =>
  async (load: JobRow): Promise<void> => {
    const [controller] = await app().db.select().from(controllerTable).where(eq(controllerTable.id, load.subject));
    if (!controller) {
      await endJob(app().db, load, 'failed', { message: 'The controller was removed.' });
      return;
    }
    const carrying = { app: app(), who: (load.input as { by: Who }).by, controller, load };
    try {
      if (memoOf(load).digest === '') await sendAll(carrying);
      else if (!(await isInForce(carrying))) await putInForce(carrying);
      await finish(carrying);
    } catch (error) {
      if (error instanceof LostJob) throw error;
      if (!(error instanceof HostRefusal)) app().log.error({ err: error }, 'a load broke off');
      const reason = sentenceFor(error);
      await settle(carrying, reason).catch((again) =>
        app().log.error({ err: again }, 'the end of a load could not be noted yet'),
      );
    }
  };

async function sendAll(carrying: Carrying): Promise<void> {
  const { app, who, load } = carrying;
  const { devices } = app;
  const device = await deviceOf(carrying);
  carrying.controller = await reconcile(app, devices, who, carrying.controller, device.digest);
  const { controller } = carrying;
  const base = controller.loadedDigest ?? EMPTY_DIGEST;
  const taken = await devices.beginLoad(controller.siteId, controller.device, load.id, base);
  await inTransaction(app.db, (tx) => unsendAfter(tx, controller.id, load.id, taken));
  let digest = base;
  for await (const page of sentHashes(app.db, controller.id, load.id)) digest = carriedBy(digest, page);
  let piece = taken;
  for (let after = ''; ; ) {
    const outgoing = await nextOutgoing(app.db, controller, load.id, after);
    if (outgoing.length === 0) break;
    await sendPiece(carrying, ++piece, outgoing);
    digest = carriedBy(
      digest,
      outgoing.map(({ loadedHash, hash }) => ({ out: loadedHash, into: hash })),
    );
    after = outgoing.at(-1)!.change[0];
  }
  await tell(app.db, load, { memo: { digest } satisfies LoadMemo });
  await putInForce(carrying);
}

const carriedBy = (digest: string, page: readonly { out: string | null; into: string | null }[]): string =>
  carried(
    digest,
    page.flatMap(({ out }) => out ?? []),
    page.flatMap(({ into }) => into ?? []),
  );

async function sendPiece({ app, controller, load }: Carrying, piece: number, outgoing: Outgoing[]): Promise<void> {
  // Cards go on being changed meanwhile: whoever meets another on a row is tried again.
  await inTransaction(app.db, (tx) => noteSent(tx, controller.id, load.id, piece, outgoing));
  await app.devices.loadPiece(
    controller.siteId,
    controller.device,
    load.id,
    piece,
    outgoing.map((item) => item.change),
  );
  const done = load.done + outgoing.length;
  await tell(app.db, load, { done, total: Math.max(load.total, done) });
  // Progress is told, not recorded: it leaves no mark in the trail and waits for nobody.
  await change(app, { id: 'server', name: 'Raw Bits' }, controller.siteId, async (_tx, record) => {
    record.announce('load', { controllerId: controller.id, ...describeLoad(load) });
  });
}

const putInForce = ({ app, controller, load }: Carrying) =>
  app.devices.commitLoad(controller.siteId, controller.device, load.id, memoOf(load).digest);

const deviceOf = ({ app, controller }: Carrying): Promise<{ digest: string }> =>
  app.devices.controller(controller.siteId, controller.device);

/** Whether the controller holds what this load makes of it. */
const isInForce = async (carrying: Carrying): Promise<boolean> =>
  memoOf(carrying.load).digest !== '' && (await deviceOf(carrying)).digest === memoOf(carrying.load).digest;

/**
 * Notes how a load ended that broke off: where the device was asked to put it in force only the device knows whether it
 * has. Where that cannot be asked, the load stays open and is asked about again by whoever takes it up.
 */
async function settle(carrying: Carrying, reason: string): Promise<void> {
  if (await isInForce(carrying)) await finish(carrying);
  else await giveUp(carrying, reason);
}
