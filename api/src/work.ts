/** Changes of many things that are being carried out at a site. */

import { z } from 'zod';
import { idSchema, instant } from './parts.ts';
import { route } from './route.ts';

export const workSchema = z.object({
  id: idSchema,
  kind: z.string(),
  /** What it does, in words. */
  what: z.string(),
  done: z.number().int(),
  total: z.number().int(),
  startedBy: z.string(),
  startedAt: instant,
});
export type Work = z.infer<typeof workSchema>;

export const workApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/work',
    summary: 'Changes of many cards that are being carried out, and how far they are',
    needs: 'see the site',
    answers: z.array(workSchema),
  }),
};
