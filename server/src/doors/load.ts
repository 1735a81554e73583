/**
 * Loading a controller: its wanted image goes over piece by piece; the controller puts it in force only when all of it
 * has come and its digest agrees, so that a broken load changes nothing.
 */
import type { ControllerImage } from '@rawbits/core/access';
import type { Load } from '@rawbits/core/api';
import { and, eq, gt } from 'drizzle-orm';
import { newId, tables } from '../database/index.ts';
import type { App } from '../http/app.ts';
import { conflict, HttpProblem, notFound } from '../http/problem.ts';
import type { RigClient } from '../rig/client.ts';
import { change, type Who } from '../trail/change.ts';
import { describeLoad, LOST_AFTER_MS } from './describe.ts';
import { type ControllerRow, digestOf, siteImages } from './images.ts';

const CARDS_A_PIECE = 25;

/** Begins a load and returns at once; throws when the device cannot be reached or a load is under way. */
export async function startLoad(app: App, who: Who, siteId: string, controllerId: string): Promise<Load> {
  const { rig } = app;
  if (!rig)
    throw new HttpProblem(503, { code: 'no-line', message: 'No line to the controllers is set up on this server.' });
  const load = await change(app, who, siteId, async (tx, record) => {
    const own = and(eq(tables.controllers.id, controllerId), eq(tables.controllers.siteId, siteId));
    const [controller] = await tx.select().from(tables.controllers).where(own).for('update');
    if (!controller) throw notFound('controller');
    const alive = and(
      eq(tables.loads.controllerId, controllerId),
      eq(tables.loads.state, 'running'),
      gt(tables.loads.heardAt, new Date(Date.now() - LOST_AFTER_MS)),
    );
    if ((await tx.$count(tables.loads, alive)) > 0)
      throw conflict('load-running', `${controller.name} is being loaded already.`, 'Wait until it is done.');
    const [image] = await siteImages(tx, siteId, controllerId);
    const { wanted } = image!;
    const now = new Date();
    const row = {
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
    };
    await tx.insert(tables.loads).values(row);
    record.announce('load', { controllerId, ...describeLoad(row) });
    return { row, controller, wanted };
  });
  void transfer(app, rig, who, load.controller, load.row.id, load.wanted);
  return describeLoad(load.row);
}

async function transfer(
  app: App,
  rig: RigClient,
  who: Who,
  controller: ControllerRow,
  loadId: string,
  image: ControllerImage,
): Promise<void> {
  const mine = eq(tables.loads.id, loadId);
  const progress = (done: number) =>
    change(app, who, controller.siteId, async (tx, record) => {
      await tx.update(tables.loads).set({ done, heardAt: new Date() }).where(mine);
      const [row] = await tx.select().from(tables.loads).where(mine);
      record.announce('load', { controllerId: controller.id, ...describeLoad(row!) });
    });
  try {
    await rig.beginLoad(controller.device, loadId, image.comparesFacility);
    let done = 0;
    for (const format of image.formats) {
      await rig.loadPiece(controller.device, loadId, { formats: [format] });
      await progress(++done);
    }
    for (let from = 0; from < image.credentials.length; from += CARDS_A_PIECE) {
      const credentials = image.credentials.slice(from, from + CARDS_A_PIECE);
      await rig.loadPiece(controller.device, loadId, { credentials });
      await progress((done += credentials.length));
    }
    await rig.commitLoad(controller.device, loadId, digestOf(image));
    await finish(app, who, controller, loadId, image);
  } catch (error) {
    await giveUp(app, who, controller, loadId, (error as Error).message).catch((again) =>
      app.log.error(again, 'a failed load could not be noted'),
    );
  }
}

function finish(app: App, who: Who, controller: ControllerRow, loadId: string, image: ControllerImage): Promise<void> {
  return change(app, who, controller.siteId, async (tx, record) => {
    const now = new Date();
    const digest = digestOf(image);
    const counts = (i: ControllerImage) => ({ formats: i.formats.map((f) => f.id), cards: i.credentials.length });
    const [before] = await tx
      .select()
      .from(tables.controllers)
      .where(eq(tables.controllers.id, controller.id))
      .for('update');
    await tx
      .update(tables.controllers)
      .set({ loadedImage: image, loadedDigest: digest, loadedAt: now })
      .where(eq(tables.controllers.id, controller.id));
    const { formats, cards } = counts(image);
    const reason = `In force: ${formats.length} ${formats.length === 1 ? 'format' : 'formats'}, ${cards} ${cards === 1 ? 'card' : 'cards'}.`;
    await tx
      .update(tables.loads)
      .set({ state: 'done', message: reason, heardAt: now })
      .where(eq(tables.loads.id, loadId));
    await tx
      .insert(tables.events)
      .values({ id: newId(), siteId: controller.siteId, at: now, kind: 'loaded', controllerId: controller.id, reason });
    const earlier = before!.loadedImage as ControllerImage | null;
    record.trail({
      action: 'controller loaded',
      subject: `controller ${controller.name}`,
      before: earlier && { ...counts(earlier), digest: before!.loadedDigest },
      after: { formats, cards, digest },
    });
    record.announce('controllers');
    record.announce('cards');
    record.announce('event');
  });
}

function giveUp(app: App, who: Who, controller: ControllerRow, loadId: string, message: string): Promise<void> {
  return change(app, who, controller.siteId, async (tx, record) => {
    const now = new Date();
    const reason = `The load stopped: ${message} What the controller had is unchanged.`;
    await tx
      .update(tables.loads)
      .set({ state: 'failed', message: reason.slice(0, 400), heardAt: now })
      .where(eq(tables.loads.id, loadId));
    await tx.insert(tables.events).values({
      id: newId(),
      siteId: controller.siteId,
      at: now,
      kind: 'load failed',
      controllerId: controller.id,
      reason,
    });
    record.trail({ action: 'load failed', subject: `controller ${controller.name}`, after: { message } });
    record.announce('controllers');
    record.announce('event');
  });
}
