/**
 * Loading a controller: what waits goes over item by item in pieces; the controller puts it in force only when all of it
 * has come and the digest of what it would then hold agrees, so that a broken load changes nothing. A load of k changes
 * costs k. One whose server stopped is gone on with by another, where it stopped; whether it took force is asked of the
 * device whenever that is not known: it is never told otherwise.
 */
import type { Load } from '@rawbits/api';
import { carried, EMPTY_DIGEST } from '@rawbits/core/access';
import { and, eq, gt, lt } from 'drizzle-orm';
import { type RigClient, RigRefusal } from '../../devices/client.ts';
import { inTransaction, newId, type Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { conflict, HttpProblem, notFound } from '../../platform/problem/problem.ts';
import { sentenceFor } from '../../platform/settings/log.ts';
import { change, type Record, type Who } from '../../platform/trail/change.ts';
import { reconcile } from './compare.ts';
import { describeLoad, LOST_AFTER_MS } from './describe.ts';
import { loadedFormats, waitingCount } from './items.ts';
import { lastOfMany, nextOutgoing, noteSent, type Outgoing, sentHashes, settleSent, unsendAfter } from './outbox.ts';
import { type ControllerRow, controllerTable, eventTable, type LoadRow, loadTable } from './tables.ts';

/** Items noted as loaded in one transaction; what a load sent beyond them is noted before, in pieces of as many. */
const SETTLED_AT_ONCE = 2000;

const HEARTBEAT_MS = 4000;

/** Another server carries this load on, or it was given up. */
class LostLoad extends Error {}

/** All that one load needs at hand. */
interface Carrying {
  app: App;
  rig: RigClient;
  who: Who;
  controller: ControllerRow;
  load: LoadRow;
}

/** Begins a load and returns at once; throws when the device cannot be reached or a load is under way. */
export async function startLoad(app: App, who: Who, siteId: string, controllerId: string): Promise<Load> {
  const { rig } = app;
  if (!rig)
    throw new HttpProblem(503, { code: 'no-line', message: 'No line to the controllers is set up on this server.' });
  // A lost load of this controller is gone on with, while the device can still tell.
  await settleLost(app).catch((error) => app.log.warn({ err: error }, 'lost loads could not be settled'));
  const begun = await change(app, who, siteId, async (tx, record) => {
    const own = and(eq(controllerTable.id, controllerId), eq(controllerTable.siteId, siteId));
    const [controller] = await tx.select().from(controllerTable).where(own).for('update');
    if (!controller) throw notFound('controller');
    const mine = and(eq(loadTable.controllerId, controllerId), eq(loadTable.state, 'running'));
    const alive = and(mine, gt(loadTable.heardAt, new Date(Date.now() - LOST_AFTER_MS)));
    if ((await tx.$count(loadTable, alive)) > 0)
      throw conflict('load-running', `${controller.name} is being loaded already.`, 'Wait until it is done.');
    for (const lost of await tx.select().from(loadTable).where(mine).for('update'))
      await noteLost(tx, record, controller, lost);
    const now = new Date();
    const load: LoadRow = {
      id: newId(),
      siteId,
      controllerId,
      state: 'running',
      done: 0,
      total: await waitingCount(tx, controllerId),
      message: '',
      startedBy: who.name,
      startedAt: now,
      heardAt: now,
      carrier: newId(),
      digest: '',
    };
    await tx.insert(loadTable).values(load);
    record.announce('load', { controllerId, ...describeLoad(load) });
    return { load, controller };
  });
  void carry({ app, rig, who: { id: who.id, name: who.name }, ...begun });
  return describeLoad(begun.load);
}

/** Carries a load to its end, from wherever it is. Never throws. */
async function carry(carrying: Carrying): Promise<void> {
  const { app, load } = carrying;
  // A controller that works through a large load says nothing for a while; whoever carries the load does.
  const heart = setInterval(() => void tell(app.db, load, {}).catch(() => {}), HEARTBEAT_MS);
  try {
    if (load.digest === '') await sendAll(carrying);
    else if (!(await isInForce(carrying))) await putInForce(carrying);
    await finish(carrying);
  } catch (error) {
    if (error instanceof LostLoad) return;
    if (!(error instanceof RigRefusal)) app.log.error({ err: error }, 'a load broke off');
    const reason = error instanceof RigRefusal ? error.message : sentenceFor(error);
    await settle(carrying, reason).catch((again) =>
      app.log.error({ err: again }, 'the end of a load could not be noted yet'),
    );
  } finally {
    clearInterval(heart);
  }
}

async function sendAll(carrying: Carrying): Promise<void> {
  const { app, rig, who, load } = carrying;
  const device = await deviceOf(carrying);
  carrying.controller = await reconcile(app, rig, who, carrying.controller, device.digest);
  const { controller } = carrying;
  const base = controller.loadedDigest ?? EMPTY_DIGEST;
  const taken = await rig.beginLoad(controller.siteId, controller.device, load.id, base);
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
  load.digest = digest;
  await tell(app.db, load, { digest });
  await putInForce(carrying);
}

const carriedBy = (digest: string, page: readonly { out: string | null; into: string | null }[]): string =>
  carried(
    digest,
    page.flatMap(({ out }) => out ?? []),
    page.flatMap(({ into }) => into ?? []),
  );

async function sendPiece({ app, rig, controller, load }: Carrying, piece: number, outgoing: Outgoing[]): Promise<void> {
  // Cards go on being changed meanwhile: whoever meets another on a row is tried again.
  await inTransaction(app.db, (tx) => noteSent(tx, controller.id, load.id, piece, outgoing));
  await rig.loadPiece(
    controller.siteId,
    controller.device,
    load.id,
    piece,
    outgoing.map((item) => item.change),
  );
  load.done += outgoing.length;
  load.total = Math.max(load.total, load.done);
  await tell(app.db, load, { done: load.done, total: load.total });
  // Progress is told, not recorded: it leaves no mark in the trail and waits for nobody.
  await change(app, { id: 'server', name: 'Raw Bits' }, controller.siteId, async (_tx, record) => {
    record.announce('load', { controllerId: controller.id, ...describeLoad(load) });
  });
}

/** Says that the load is carried on; throws LostLoad when it is not this server's any more. */
async function tell(db: Queryable, load: LoadRow, fields: Partial<LoadRow>): Promise<void> {
  const [result] = await db
    .update(loadTable)
    .set({ ...fields, heardAt: new Date() })
    .where(mineOf(load));
  if (result.affectedRows === 0) throw new LostLoad();
}

const mineOf = ({ id, carrier }: LoadRow) =>
  and(eq(loadTable.id, id), eq(loadTable.state, 'running'), eq(loadTable.carrier, carrier));

const putInForce = ({ rig, controller, load }: Carrying) =>
  rig.commitLoad(controller.siteId, controller.device, load.id, load.digest);

async function deviceOf({ rig, controller }: Carrying): Promise<{ digest: string }> {
  const devices = await rig.controllers();
  const device = devices?.controllers.find(({ id }) => id === controller.device);
  if (devices && devices.site !== controller.siteId) throw new RigRefusal('These devices belong to another site.');
  if (!device) throw new RigRefusal(devices ? 'The rig has no such controller.' : 'The rig does not answer.');
  return device;
}

/** Whether the controller holds what this load makes of it. */
const isInForce = async (carrying: Carrying): Promise<boolean> =>
  carrying.load.digest !== '' && (await deviceOf(carrying)).digest === carrying.load.digest;

/**
 * Notes how a load ended that broke off: where the device was asked to put it in force only the device knows whether it
 * has. Where that cannot be asked, the load stays open and is asked about again by `settleLost`.
 */
async function settle(carrying: Carrying, reason: string): Promise<void> {
  if (carrying.load.digest !== '' && (await isInForce(carrying))) await finish(carrying);
  else await giveUp(carrying, reason);
}

/** Takes a load's end for this call alone; false where another server, or another try, noted it before. */
async function end(tx: Queryable, load: LoadRow, state: 'done' | 'failed', message: string): Promise<boolean> {
  const [result] = await tx
    .update(loadTable)
    .set({ state, message: message.slice(0, 400), heardAt: new Date() })
    .where(and(eq(loadTable.id, load.id), eq(loadTable.state, 'running')));
  return result.affectedRows > 0;
}

/** The load took force: what it sent is what the controller has. */
async function finish({ app, who, controller, load }: Carrying): Promise<void> {
  // Of a large one all but the last are noted before; whoever goes on with it finds the rest.
  let after = '';
  for (;;) {
    const last = await lastOfMany(app.db, controller.id, load.id, after, SETTLED_AT_ONCE);
    if (last === undefined) break;
    await tell(app.db, load, {});
    await change(app, who, controller.siteId, async (tx) => {
      await addLoadedCards(tx, controller.id, await settleSent(tx, controller.id, load.id, after, last));
    });
    after = last;
  }
  await change(app, who, controller.siteId, async (tx, record) => {
    const cards = await addLoadedCards(tx, controller.id, await settleSent(tx, controller.id, load.id, after));
    const formats = await loadedFormats(tx, controller.id);
    const reason = `In force: ${counted(formats.length, 'format')}, ${counted(cards, 'card')}.`;
    if (!(await end(tx, load, 'done', reason))) return;
    const now = new Date();
    await tx
      .update(controllerTable)
      .set({ loadedDigest: load.digest, loadedAt: now })
      .where(eq(controllerTable.id, controller.id));
    await noteEvent(tx, controller, 'loaded', reason, now);
    record.trail({
      action: 'controller loaded',
      subject: `controller ${controller.name}`,
      before: controller.loadedAt && { digest: controller.loadedDigest },
      after: { formats, cards, changes: load.done, digest: load.digest },
    });
    announce(record);
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

function giveUp({ app, who, controller, load }: Carrying, message: string): Promise<void> {
  return change(app, who, controller.siteId, async (tx, record) => {
    const reason = `The load stopped: ${message} What the controller had is unchanged.`;
    if (!(await end(tx, load, 'failed', reason))) return;
    await noteEvent(tx, controller, 'load failed', reason, new Date());
    record.trail({ action: 'load failed', subject: `controller ${controller.name}`, after: { message } });
    announce(record);
  });
}

/** A load whose server stopped and whose device was not asked: what the controller has is seen by its digest. */
async function noteLost(tx: Queryable, record: Record, controller: ControllerRow, load: LoadRow): Promise<void> {
  const reason = 'The server that loaded it stopped, and whether the load took force was not asked. It is loaded anew.';
  if (!(await end(tx, load, 'failed', reason))) return;
  await noteEvent(tx, controller, 'load failed', reason, new Date());
  record.trail({ action: 'load lost', subject: `controller ${controller.name}`, after: { startedBy: load.startedBy } });
}

const noteEvent = (tx: Queryable, controller: ControllerRow, kind: string, reason: string, at: Date) =>
  tx
    .insert(eventTable)
    .values({ id: newId(), siteId: controller.siteId, at, kind, controllerId: controller.id, reason });

function announce(record: Record): void {
  record.announce('controllers');
  record.announce('event');
}

/** Takes up loads whose server has not been heard of: on every server, again and again; each load by one of them. */
export async function settleLost(app: App): Promise<void> {
  if (!app.rig) return;
  const silent = lt(loadTable.heardAt, new Date(Date.now() - LOST_AFTER_MS));
  const lost = await app.db
    .select({ load: loadTable, controller: controllerTable })
    .from(loadTable)
    .innerJoin(controllerTable, eq(controllerTable.id, loadTable.controllerId))
    .where(and(eq(loadTable.state, 'running'), silent));
  if (lost.length === 0 || !(await app.rig.controllers())) return;
  for (const { load, controller } of lost) {
    const carrier = newId();
    const [taken] = await app.db
      .update(loadTable)
      .set({ carrier, heardAt: new Date() })
      .where(and(mineOf(load), silent));
    // Nobody waits for its end: a large one takes minutes, and a request for another controller came by here, too.
    if (taken.affectedRows > 0)
      void carry({
        app,
        rig: app.rig,
        who: { id: 'server', name: 'Raw Bits' },
        controller,
        load: { ...load, carrier },
      });
  }
}
