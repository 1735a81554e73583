/** The live feed of a site as server-sent events. */
import { feedEntrySchema } from '@rawbits/core/api';
import { z } from 'zod';
import { route } from '../http/app.ts';
import { signedInBy } from '../session/sessions.ts';

const listen = route({
  method: 'get',
  path: '/sites/{site}/live',
  summary: 'Server-sent events: reads, events and changes; goes on after Last-Event-ID, or after the query’s `after`',
  needs: 'viewer',
  query: z.object({ after: z.coerce.number().int().min(0).optional() }),
  answers: feedEntrySchema,
  streams: true,
  handle: async ({ app, site, query, request, response }) => {
    const header = request.headers['last-event-id'];
    const last = typeof header === 'string' && /^\d{1,15}$/.test(header) ? Number(header) : query.after;
    const stillAllowed = async () => (await signedInBy(app.db, request))?.roles.has(site) ?? false;
    await app.live.listen(response, site, last, stillAllowed);
    return undefined;
  },
});

export const liveRoutes = [listen];
