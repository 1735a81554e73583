/** Doors: controllers with what they should have and what they have, their readers, loading. */
import {
  controllerSchema,
  loadSchema,
  newControllerSchema,
  newReaderSchema,
  type Reader,
  readerSchema,
  wantedFormatsSchema,
} from '@rawbits/core/api';
import { and, asc, eq } from 'drizzle-orm';
import { z } from 'zod';
import { isDuplicate, newId, tables } from '../database/index.ts';
import { route } from '../http/app.ts';
import { conflict, invalid, notFound } from '../http/problem.ts';
import { change } from '../trail/change.ts';
import { setAccepted } from './accept.ts';
import { describeControllers } from './describe.ts';
import { startLoad } from './load.ts';

const list = route({
  method: 'get',
  path: '/sites/{site}/controllers',
  summary: 'The controllers of a site: wanted against loaded',
  needs: 'viewer',
  answers: z.array(controllerSchema),
  handle: ({ app, site }) => describeControllers(app, site),
});

const one = route({
  method: 'get',
  path: '/sites/{site}/controllers/{id}',
  summary: 'One controller',
  needs: 'viewer',
  answers: controllerSchema,
  handle: async ({ app, site, params }) => {
    const [controller] = await describeControllers(app, site, params.id);
    if (!controller) throw notFound('controller');
    return controller;
  },
});

const add = route({
  method: 'post',
  path: '/sites/{site}/controllers',
  summary: 'A new controller',
  needs: 'technician',
  body: newControllerSchema,
  answers: controllerSchema,
  handle: async ({ app, operator, site, body }) => {
    const id = newId();
    try {
      await change(app, operator, site, async (tx, record) => {
        await tx.insert(tables.controllers).values({ id, siteId: site, ...body });
        record.trail({ action: 'controller added', subject: `controller ${body.name}`, after: { id, ...body } });
        record.announce('controllers');
      });
    } catch (error) {
      if (!isDuplicate(error)) throw error;
      throw conflict('device-taken', `The device "${body.device}" is in use already.`, undefined, 'device');
    }
    return (await describeControllers(app, site, id))[0]!;
  },
});

const setFormats = route({
  method: 'put',
  path: '/sites/{site}/controllers/{id}/formats',
  summary: 'Which adopted formats the controller is to accept; reaches it with the next load',
  needs: 'technician',
  body: wantedFormatsSchema,
  answers: controllerSchema,
  handle: async ({ app, operator, site, params, body }) => {
    await change(app, operator, site, (tx, record) => setAccepted(tx, record, site, params.id!, body.formats));
    return (await describeControllers(app, site, params.id))[0]!;
  },
});

const load = route({
  method: 'post',
  path: '/sites/{site}/controllers/{id}/loads',
  summary: 'Load the controller with what it should have',
  needs: 'technician',
  answers: loadSchema,
  handle: ({ app, operator, site, params }) => startLoad(app, operator, site, params.id!),
});

const readers = route({
  method: 'get',
  path: '/sites/{site}/readers',
  summary: 'The readers of a site',
  needs: 'viewer',
  answers: z.array(readerSchema),
  handle: async ({ app, site }) => {
    const rows = await app.db
      .select()
      .from(tables.readers)
      .where(eq(tables.readers.siteId, site))
      .orderBy(asc(tables.readers.name));
    return rows.map((row) => ({ ...row, kind: row.kind as Reader['kind'] }));
  },
});

const addReader = route({
  method: 'post',
  path: '/sites/{site}/readers',
  summary: 'A new reader, at a door of a controller or for enrolment',
  needs: 'technician',
  body: newReaderSchema,
  answers: readerSchema,
  handle: async ({ app, operator, site, body }) => {
    const row = { id: newId(), siteId: site, ...body };
    try {
      await change(app, operator, site, async (tx, record) => {
        if (body.controllerId !== null) {
          const own = and(eq(tables.controllers.id, body.controllerId), eq(tables.controllers.siteId, site));
          if ((await tx.$count(tables.controllers, own)) === 0)
            throw invalid('controllerId', 'There is no such controller at this site.');
        }
        await tx.insert(tables.readers).values(row);
        record.trail({ action: 'reader added', subject: `reader ${body.name}`, after: { id: row.id, ...body } });
        record.announce('controllers');
      });
    } catch (error) {
      if (!isDuplicate(error)) throw error;
      throw conflict('device-taken', `The device "${body.device}" is in use already.`, undefined, 'device');
    }
    return row;
  },
});

export const doorRoutes = [list, one, add, setFormats, load, readers, addReader];
