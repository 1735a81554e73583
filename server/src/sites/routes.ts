/** Sites: the ones an operator works at, and new ones. */
import { newSiteSchema, siteSchema } from '@rawbits/core/api';
import { inArray } from 'drizzle-orm';
import { z } from 'zod';
import { tables } from '../database/index.ts';
import { route } from '../http/app.ts';
import { change, HOUSE } from '../trail/change.ts';
import { insertSite } from './insert.ts';

const list = route({
  method: 'get',
  path: '/sites',
  summary: 'The sites of the operator',
  needs: 'signed in',
  answers: z.array(siteSchema),
  handle: async ({ app, operator }) => {
    const ids = [...operator.roles.keys()];
    return ids.length === 0
      ? []
      : app.db.select().from(tables.sites).where(inArray(tables.sites.id, ids)).orderBy(tables.sites.name);
  },
});

const add = route({
  method: 'post',
  path: '/sites',
  summary: 'A new site; whoever makes it becomes its administrator',
  needs: 'administrator',
  body: newSiteSchema,
  answers: siteSchema,
  handle: async ({ app, operator, body }) =>
    change(app, operator, HOUSE, async (tx, record) => {
      const id = await insertSite(tx, body, operator.id);
      record.trail({ action: 'site added', subject: `site ${body.name}`, after: { id, ...body } });
      return { id, ...body, hasRig: false };
    }),
});

export const siteRoutes = [list, add];
