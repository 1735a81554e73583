/** Doors: controllers with what they should have and what they have, their readers, loading. */

import { doorApi, type Reader } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { asc, eq } from 'drizzle-orm';
import { handle } from '../../platform/http/app.ts';
import { notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { takeTurn } from '../rights/index.ts';
import { setAccepted } from './accept.ts';
import { describeControllers } from './describe.ts';
import { decideAsLoaded } from './held.ts';
import { addController } from './items.ts';
import { cancelLoad, startLoad } from './load.ts';
import { notePassing } from './passing.ts';
import { addReader, unlessTaken } from './readers.ts';
import { readerTable } from './tables.ts';

const list = handle(doorApi.list, ({ app, site }) => describeControllers(app, site));

const one = handle(doorApi.one, async ({ app, site, params }) => {
  const [controller] = await describeControllers(app, site, params.id);
  if (!controller) throw notFound('controller');
  return controller;
});

const add = handle(doorApi.add, async ({ app, operator, site, body }) => {
  const id = await unlessTaken(body.device, () =>
    change(app, operator, site, async (tx, record) => {
      const added = await addController(tx, site, body);
      record.trail({ action: 'controller added', subject: `controller ${body.name}`, after: { id: added, ...body } });
      record.announce('controllers');
      return added;
    }),
  );
  return (await describeControllers(app, site, id))[0]!;
});

const setFormats = handle(doorApi.setFormats, async ({ app, operator, site, params, body }) => {
  const wanted = { siteId: site, controllerId: params.id!, formats: body.formats };
  const jobs = await change(app, operator, site, (tx, record) => setAccepted(tx, record, operator.name, wanted));
  for (const job of jobs) app.jobs.begin(job);
  return (await describeControllers(app, site, params.id))[0]!;
});

const load = handle(doorApi.load, ({ app, operator, site, params }) => startLoad(app, operator, site, params.id!));

const stopLoad = handle(doorApi.cancelLoad, async ({ app, operator, site, params }) => {
  await cancelLoad(app, operator, site, params.id!);
  return (await describeControllers(app, site, params.id))[0]!;
});

const readers = handle(doorApi.readers, async ({ app, site }) => {
  const rows = await app.db
    .select()
    .from(readerTable)
    .where(eq(readerTable.siteId, site))
    .orderBy(asc(readerTable.name));
  return rows.map((row) => ({ ...row, kind: row.kind as Reader['kind'], way: row.way as Reader['way'] }));
});

const newReader = handle(doorApi.addReader, async ({ app, operator, site, body }) => {
  return unlessTaken(body.device, () =>
    change(app, operator, site, async (tx, record) => {
      if (body.doorId !== null) await takeTurn(tx, site);
      const row = await addReader(tx, site, body);
      if (body.doorId !== null) await notePassing(tx, site);
      record.trail({ action: 'reader added', subject: `reader ${body.name}`, after: { id: row.id, ...body } });
      record.announce('controllers');
      return { ...row, kind: body.kind };
    }),
  );
});

const decideNow = handle(doorApi.decideNow, ({ app, site, query }) =>
  decideAsLoaded(app.db, site, Bits.fromBinary(query.bits), Date.now()),
);

export const doorRoutes = [list, decideNow, one, add, setFormats, load, stopLoad, readers, newReader];
