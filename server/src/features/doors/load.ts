/**
 * Loading a controller: its wanted image goes over piece by piece; the controller puts it in force only when all of it
 * has come and its digest agrees, so that a broken load changes nothing. Whether it took force is asked of the device
 * whenever that is not known: it is never told otherwise.
 */

import type { Load } from '@rawbits/api';
import { type ControllerImage, controllerImageSchema } from '@rawbits/core/access';
import { and, eq, gt, lt } from 'drizzle-orm';
import { type RigClient, RigRefusal } from '../../devices/client.ts';
import { newId, type Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { conflict, HttpProblem, notFound } from '../../platform/problem/problem.ts';
import { sentenceFor } from '../../platform/settings/log.ts';
import { change, type Record, type Who } from '../../platform/trail/change.ts';
import { describeLoad, LOST_AFTER_MS } from './describe.ts';
import { type ControllerRow, digestOf, siteImages } from './images.ts';
import { controllerTable, eventTable, loadTable } from './tables.ts';

const CARDS_A_PIECE = 25;
type LoadRow = typeof loadTable.$inferSelect;

/** Begins a load and returns at once; throws when the device cannot be reached or a load is under way. */
export async function startLoad(app: App, who: Who, siteId: string, controllerId: string): Promise<Load> {
  const { rig } = app;
  if (!rig)
    throw new HttpProblem(503, { code: 'no-line', message: 'No line to the controllers is set up on this server.' });
  // A lost load of this controller is asked about first, while the device can still tell.
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
    const [image] = await siteImages(tx, siteId, controllerId);
    const { wanted } = image!;
    const now = new Date();
    const row: LoadRow = {
      id: newId(),
      siteId,
      controllerId,
      state: 'running',
      done: 0,
      total: wanted.formats.length + wanted.credentials.length,
      message: '',
      startedBy: who.name,
      startedAt: now,
      heardAt: now,
      image: wanted,
      digest: digestOf(wanted),
    };
    await tx.insert(loadTable).values(row);
    record.announce('load', { controllerId, ...describeLoad(row) });
    return { row, controller };
  });
  void transfer(app, rig, { id: who.id, name: who.name }, begun.controller, begun.row);
  return describeLoad(begun.row);
}

/** Sends the image over. Never throws. */
async function transfer(app: App, rig: RigClient, who: Who, controller: ControllerRow, load: LoadRow): Promise<void> {
  let asked = false;
  try {
    await send(app, rig, who, controller, load);
    asked = true;
    await rig.commitLoad(controller.siteId, controller.device, load.id, load.digest);
    await finish(app, who, controller, load);
  } catch (error) {
    if (!(error instanceof RigRefusal)) app.log.error({ err: error }, 'a load broke off');
    const reason = error instanceof RigRefusal ? error.message : sentenceFor(error);
    // Once the device was asked to put it in force, only the device knows whether it has.
    const settled = asked
      ? settle(app, rig, who, controller, load, reason)
      : giveUp(app, who, controller, load, reason);
    await settled.catch((again) => app.log.error({ err: again }, 'the end of a load could not be noted yet'));
  }
}

async function send(app: App, rig: RigClient, who: Who, controller: ControllerRow, load: LoadRow): Promise<void> {
  const image = load.image as ControllerImage;
  const { siteId, device } = controller;
  const mine = eq(loadTable.id, load.id);
  const progress = (done: number) =>
    change(app, who, siteId, async (tx, record) => {
      await tx.update(loadTable).set({ done, heardAt: new Date() }).where(mine);
      const [row] = await tx.select().from(loadTable).where(mine);
      record.announce('load', { controllerId: controller.id, ...describeLoad(row!) });
    });
  await rig.beginLoad(siteId, device, load.id, image.comparesFacility);
  let done = 0;
  for (const format of image.formats) {
    await rig.loadPiece(siteId, device, load.id, { formats: [format] });
    await progress(++done);
  }
  for (let from = 0; from < image.credentials.length; from += CARDS_A_PIECE) {
    const credentials = image.credentials.slice(from, from + CARDS_A_PIECE);
    await rig.loadPiece(siteId, device, load.id, { credentials });
    await progress((done += credentials.length));
  }
}

/**
 * Finds out from the device how a load ended, and notes it. Where the device does not answer the load stays open and is
 * asked about again by `settleLost`. Says whether it is settled.
 */
async function settle(
  app: App,
  rig: RigClient,
  who: Who,
  controller: ControllerRow,
  load: LoadRow,
  reason: string,
): Promise<boolean> {
  const devices = await rig.controllers();
  if (!devices || devices.site !== controller.siteId) return false;
  const has = devices.controllers.find(({ id }) => id === controller.device)?.digest;
  if (has === load.digest && load.image) await finish(app, who, controller, load);
  else await giveUp(app, who, controller, load, reason);
  return true;
}

/** Takes a load's end for this call alone; false where another server, or another try, noted it before. */
async function end(tx: Queryable, load: LoadRow, state: 'done' | 'failed', message: string): Promise<boolean> {
  const [result] = await tx
    .update(loadTable)
    .set({ state, message: message.slice(0, 400), heardAt: new Date(), image: null })
    .where(and(eq(loadTable.id, load.id), eq(loadTable.state, 'running')));
  return result.affectedRows > 0;
}

const countsOf = (image: ControllerImage) => ({
  formats: image.formats.map((f) => f.id),
  cards: image.credentials.length,
});

function finish(app: App, who: Who, controller: ControllerRow, load: LoadRow): Promise<void> {
  const image = controllerImageSchema.parse(load.image);
  return change(app, who, controller.siteId, async (tx, record) => {
    const { formats, cards } = countsOf(image);
    const reason = `In force: ${formats.length} ${formats.length === 1 ? 'format' : 'formats'}, ${cards} ${cards === 1 ? 'card' : 'cards'}.`;
    if (!(await end(tx, load, 'done', reason))) return;
    const mine = eq(controllerTable.id, controller.id);
    const [before] = await tx.select().from(controllerTable).where(mine).for('update');
    const now = new Date();
    await tx.update(controllerTable).set({ loadedImage: image, loadedDigest: load.digest, loadedAt: now }).where(mine);
    await noteEvent(tx, controller, 'loaded', reason, now);
    const earlier = before!.loadedImage as ControllerImage | null;
    record.trail({
      action: 'controller loaded',
      subject: `controller ${controller.name}`,
      before: earlier && { ...countsOf(earlier), digest: before!.loadedDigest },
      after: { formats, cards, digest: load.digest },
    });
    announce(record);
    record.announce('cards');
  });
}

function giveUp(app: App, who: Who, controller: ControllerRow, load: LoadRow, message: string): Promise<void> {
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

/** Settles loads whose server has not been heard of: on every server, again and again; each load is settled once. */
export async function settleLost(app: App): Promise<void> {
  if (!app.rig) return;
  const lost = await app.db
    .select({ load: loadTable, controller: controllerTable })
    .from(loadTable)
    .innerJoin(controllerTable, eq(controllerTable.id, loadTable.controllerId))
    .where(and(eq(loadTable.state, 'running'), lt(loadTable.heardAt, new Date(Date.now() - LOST_AFTER_MS))));
  for (const { load, controller } of lost) {
    const who = { id: 'server', name: 'Raw Bits' };
    await settle(app, app.rig, who, controller, load, 'The server that loaded it stopped before it was done.');
  }
}
