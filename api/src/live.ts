/** The live feed of a site. */

import { z } from 'zod';
import { idSchema } from './parts.ts';
import { route } from './route.ts';

export const feedEntrySchema = z.object({
  seq: z.number().int(),
  kind: z.enum([
    'read',
    'event',
    'cards',
    'cardholders',
    'formats',
    'controllers',
    'load',
    'operators',
    'trail',
    'cases',
    'work',
    'keys',
    'plans',
    'runs',
    'access',
    'arming',
    'filters',
  ]),
  data: z.unknown(),
});

/** Which things of a kind changed; all of them may have where it names none. `added` where they are new. */
export const whichSchema = z.object({ ids: z.array(idSchema).max(50).optional(), added: z.boolean().optional() });
export type Which = z.infer<typeof whichSchema>;

export type FeedEntry = z.infer<typeof feedEntrySchema>;

export const liveApi = {
  listen: route({
    method: 'get',
    path: '/sites/{site}/live',
    summary: 'Server-sent events: reads, events and changes; goes on after Last-Event-ID, or after the query’s `after`',
    needs: 'see the site',
    query: z.object({ after: z.coerce.number().int().min(0).optional() }),
    answers: feedEntrySchema,
    streams: true,
  }),
};
