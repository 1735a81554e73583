/** Sites. */

import { z } from 'zod';
import { idSchema, name } from './parts.ts';
import { route } from './route.ts';

export const siteSchema = z.object({ id: idSchema, name, shortName: z.string(), hasRig: z.boolean() });

export type Site = z.infer<typeof siteSchema>;

export const newSiteSchema = z.strictObject({ name, shortName: name.max(24) });

export const siteApi = {
  list: route({
    method: 'get',
    path: '/sites',
    summary: 'The sites of the operator',
    needs: 'signed in',
    answers: z.array(siteSchema),
  }),
  add: route({
    method: 'post',
    path: '/sites',
    summary: 'A new site; whoever makes it becomes its administrator',
    needs: 'manage sites',
    body: newSiteSchema,
    answers: siteSchema,
  }),
};
