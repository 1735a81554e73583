/** The live feed of a site. */

import { z } from 'zod';
import { route } from './route.ts';

export const feedEntrySchema = z.object({
  seq: z.number().int(),
  kind: z.enum(['read', 'event', 'cards', 'formats', 'controllers', 'load', 'operators', 'trail', 'cases', 'work']),
  data: z.unknown(),
});

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
