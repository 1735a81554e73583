/** Changing controllers and readers, and removing them after what would go with them was shown. */
import { doorApi } from '@rawbits/api';
import { eq } from 'drizzle-orm';
import { handle } from '../../platform/http/app.ts';
import { change } from '../../platform/trail/change.ts';
import { controllerTable, describeControllers, readerTable, unlessTaken } from '../doors/index.ts';
import { changeController, changeReader } from './change.ts';
import { controllerLeaving, readerLeaving } from './leaving.ts';
import { remove } from './remove.ts';

const changedController = handle(doorApi.change, async ({ app, operator, site, params, body }) => {
  await unlessTaken(body.device, () =>
    change(app, operator, site, (tx, record) => changeController(tx, record, site, params.id!, body)),
  );
  return (await describeControllers(app, site, params.id))[0]!;
});

const changedReader = handle(doorApi.changeReader, ({ app, operator, site, params, body }) =>
  unlessTaken(body.device, () =>
    change(app, operator, site, (tx, record) => changeReader(tx, record, site, params.id!, body)),
  ),
);

const controllerRemoval = handle(
  doorApi.removal,
  async ({ app, site, params }) => (await controllerLeaving(app.db, site, params.id!)).removal,
);

const removeController = handle(doorApi.remove, ({ app, operator, site, params, body }) =>
  remove(app, operator, 'controller', { site, id: params.id!, seen: body.seen }),
);

const readerRemoval = handle(
  doorApi.readerRemoval,
  async ({ app, site, params }) => (await readerLeaving(app.db, site, params.id!)).removal,
);

const removeReader = handle(doorApi.removeReader, ({ app, operator, site, params, body }) =>
  remove(app, operator, 'reader', { site, id: params.id!, seen: body.seen }),
);

const offered = handle(doorApi.offered, async ({ app, site }) => {
  const now = await app.devices.of(site);
  const taken = async (table: typeof controllerTable | typeof readerTable) =>
    new Set(
      (await app.db.select({ device: table.device }).from(table).where(eq(table.siteId, site))).map((r) => r.device),
    );
  const free = async (devices: readonly { id: string }[] = [], table: typeof controllerTable | typeof readerTable) => {
    const used = await taken(table);
    return [...new Set(devices.map(({ id }) => id))].filter((id) => !used.has(id)).sort();
  };
  return {
    answers: now !== undefined,
    controllers: await free(now?.controllers, controllerTable),
    readers: await free(now?.readers, readerTable),
  };
});

export const doorChangeRoutes = [
  offered,
  changedController,
  changedReader,
  controllerRemoval,
  removeController,
  readerRemoval,
  removeReader,
];
