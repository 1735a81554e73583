/** The trail of a site: who changed what, and whether it is as it was written. */
import { trailEntrySchema, trailQuerySchema, trailVerificationSchema } from '@rawbits/core/api';
import { and, desc, eq, lt } from 'drizzle-orm';
import { z } from 'zod';
import { tables } from '../database/index.ts';
import { route } from '../http/app.ts';
import { verifyTrail } from './verify.ts';

const list = route({
  method: 'get',
  path: '/sites/{site}/trail',
  summary: 'Who changed what, newest first',
  needs: 'viewer',
  query: trailQuerySchema,
  answers: z.array(trailEntrySchema),
  handle: async ({ app, site, query }) => {
    const rows = await app.db
      .select()
      .from(tables.trail)
      .where(
        and(eq(tables.trail.chain, site), query.before === undefined ? undefined : lt(tables.trail.seq, query.before)),
      )
      .orderBy(desc(tables.trail.seq))
      .limit(query.limit);
    return rows.map(({ seq, at, operator, action, subject, before, after }) => ({
      seq,
      at: at.toISOString(),
      operator,
      action,
      subject,
      before: JSON.parse(before),
      after: JSON.parse(after),
    }));
  },
});

const verification = route({
  method: 'get',
  path: '/sites/{site}/trail/verification',
  summary: 'Verify the chain of the trail from its first entry to its noted head',
  needs: 'viewer',
  answers: trailVerificationSchema,
  handle: ({ app, site }) => verifyTrail(app, site),
});

export const trailRoutes = [list, verification];
