/** A controller as the web shows it: wanted against loaded, and how that stands. */

import type { Controller, Load } from '@rawbits/api';
import { differenceOf } from '@rawbits/core/access';
import { desc, eq } from 'drizzle-orm';
import type { App } from '../../platform/http/app.ts';
import { type Images, siteImages } from './images.ts';
import { loadTable, readerTable } from './tables.ts';

/** A running load not heard of for so long has lost its server. */
export const LOST_AFTER_MS = 15_000;
const SHOWN = 40;

type LoadRow = typeof loadTable.$inferSelect;

export function describeLoad(row: LoadRow): Load {
  const lost = row.state === 'running' && Date.now() - row.heardAt.getTime() > LOST_AFTER_MS;
  return {
    id: row.id,
    state: lost ? 'failed' : (row.state as Load['state']),
    done: row.done,
    total: row.total,
    message: lost
      ? 'The server that loaded it stopped; the controller is asked what it has as soon as it answers.'
      : row.message,
    startedAt: row.startedAt.toISOString(),
  };
}

function waitingOf({ wanted, loaded }: Images): Controller['waiting'] {
  const { added, changed, removed } = differenceOf(wanted, loaded);
  const names = new Map([...loaded.formats, ...wanted.formats].map((f) => [`format ${f.id}`, `format ${f.name}`]));
  for (const c of [...loaded.credentials, ...wanted.credentials])
    names.set(
      `card ${c.id}`,
      `card ${c.facility === null ? '' : `${c.facility}/`}${c.number}${c.holder ? `, ${c.holder}` : ''}, ${c.state}`,
    );
  const say = (change: 'add' | 'change' | 'remove') => (key: string) => ({ change, what: names.get(key) ?? key });
  return [...added.map(say('add')), ...changed.map(say('change')), ...removed.map(say('remove'))];
}

export async function describeControllers(app: App, siteId: string, only?: string): Promise<Controller[]> {
  const images = await siteImages(app.db, siteId, only);
  const readers = await app.db
    .select()
    .from(readerTable)
    .where(eq(readerTable.siteId, siteId))
    .orderBy(readerTable.name);
  const rig = await app.rig?.controllers();
  // A rig belongs to one site: another's device of the same name is not this one.
  const devices = rig?.site === siteId ? rig.controllers : undefined;
  return Promise.all(
    images.map(async (image) => {
      const { controller, wanted, loaded } = image;
      const [load] = await app.db
        .select()
        .from(loadTable)
        .where(eq(loadTable.controllerId, controller.id))
        .orderBy(desc(loadTable.startedAt))
        .limit(1);
      const device = devices?.find((d) => d.id === controller.device);
      const waiting = waitingOf(image);
      const differs =
        device !== undefined && controller.loadedDigest !== null && device.digest !== controller.loadedDigest;
      const standing =
        controller.loadedAt === null
          ? 'never loaded'
          : differs
            ? 'differs'
            : waiting.length > 0
              ? 'changes waiting'
              : 'current';
      return {
        id: controller.id,
        name: controller.name,
        device: controller.device,
        comparesFacility: controller.comparesFacility,
        wantedFormats: wanted.formats.map((f) => f.id),
        loadedFormats: loaded.formats.map((f) => f.id),
        wantedCards: wanted.credentials.length,
        loadedCards: loaded.credentials.length,
        standing,
        waiting: waiting.slice(0, SHOWN),
        waitingCount: waiting.length,
        loadedAt: controller.loadedAt?.toISOString() ?? null,
        readers: readers.filter((r) => r.controllerId === controller.id).map(({ id, name }) => ({ id, name })),
        load: load ? describeLoad(load) : null,
        answers: device !== undefined,
      } satisfies Controller;
    }),
  );
}
