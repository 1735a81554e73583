/** The trail: who did what, and whether the record is as it was written. */

import { z } from 'zod';
import { eventSchema } from './events.ts';
import { instant } from './parts.ts';
import { route } from './route.ts';

export const trailEntrySchema = z.object({
  /** Its own name, which sorts by when it was written. */
  name: z.string(),
  /** Its number in the chain; null in the moment before it is sealed. */
  seq: z.number().int().nullable(),
  at: instant,
  operator: z.string(),
  action: z.string(),
  subject: z.string(),
  before: z.unknown(),
  after: z.unknown(),
});

export type TrailEntry = z.infer<typeof trailEntrySchema>;

export const trailQuerySchema = z.object({
  limit: z.coerce.number().int().min(1).max(500).default(100),
  /** The `name` of the last entry of the page before. */
  before: z.string().max(40).optional(),
});

/** What happened at a site: at its doors, and who changed what, in one order. */
export const happenedQuerySchema = z.object({
  show: z.enum(['all', 'events', 'changes']).default('all'),
  /** Words that all have to stand in a row, in any order. */
  search: z.string().max(200).optional(),
  from: instant.optional(),
  /** Up to this instant, which is not in it. */
  to: instant.optional(),
  /** Where the page before ended: its `next`. */
  after: z.string().max(400).optional(),
  limit: z.coerce.number().int().min(1).max(500).default(100),
});

export const happenedSchema = z.object({
  rows: z.array(
    z.discriminatedUnion('kind', [
      z.object({ kind: z.literal('event'), at: instant, event: eventSchema }),
      z.object({ kind: z.literal('change'), at: instant, change: trailEntrySchema }),
    ]),
  ),
  next: z.string().nullable(),
});
export type Happened = z.infer<typeof happenedSchema>;

export const trailFindingSchema = z.object({
  seq: z.number().int(),
  kind: z.enum([
    'changed',
    'missing',
    'does not follow',
    'cut off',
    'not the noted one',
    'note lost',
    'not sealed',
    'head lost',
    'head changed',
  ]),
  message: z.string(),
  /** Who has settled it, when and why; null while nobody has. */
  settled: z.object({ by: z.string(), at: instant, reason: z.string() }).nullable(),
});

export type TrailFinding = z.infer<typeof trailFindingSchema>;

export const trailVerificationSchema = z.object({
  /** Nothing is wrong, or all that is has been settled. */
  intact: z.boolean(),
  entries: z.number().int(),
  /** The first entry at which something is wrong that nobody has settled. */
  brokenAt: z.number().int().nullable(),
  message: z.string(),
  findings: z.array(trailFindingSchema),
  /** How many more there are than are listed. */
  more: z.number().int(),
});

/** Whether entries are sealed into their chain within a moment, as they should be. */
export const sealingSchema = z.object({
  /** Since when sealing has failed; null while it does not. */
  failsSince: instant.nullable(),
});
export type Sealing = z.infer<typeof sealingSchema>;

export const settleTrailSchema = z.strictObject({ reason: z.string().trim().min(1, 'Say why.').max(400) });

export type TrailVerification = z.infer<typeof trailVerificationSchema>;

export const trailApi = {
  happened: route({
    method: 'get',
    path: '/sites/{site}/happened',
    summary: 'Events and changes in one order, newest first, page by page; with search and filters',
    needs: 'see the site',
    query: happenedQuerySchema,
    answers: happenedSchema,
  }),
  list: route({
    method: 'get',
    path: '/sites/{site}/trail',
    summary: 'Who changed what, newest first',
    needs: 'see the site',
    query: trailQuerySchema,
    answers: z.array(trailEntrySchema),
  }),
  sealing: route({
    method: 'get',
    path: '/sites/{site}/trail/sealing',
    summary: 'Whether new entries of the record are sealed into their chain',
    needs: 'see the site',
    answers: sealingSchema,
  }),
  verification: route({
    method: 'get',
    path: '/sites/{site}/trail/verification',
    summary: 'Verify the chain of the trail from its first entry to its noted head',
    needs: 'see the site',
    answers: trailVerificationSchema,
  }),
  settlement: route({
    method: 'post',
    path: '/sites/{site}/trail/settlement',
    summary: 'Settle the breaks that verification finds, with a reason; it becomes an entry, and they stay on record',
    needs: 'keep the trail',
    body: settleTrailSchema,
    answers: trailVerificationSchema,
  }),
  houseList: route({
    method: 'get',
    path: '/trail',
    summary: 'The record of what belongs to no site: formats, sites, operators, sign-ins; newest first',
    needs: 'keep the trail',
    query: trailQuerySchema,
    answers: z.array(trailEntrySchema),
  }),
  houseVerification: route({
    method: 'get',
    path: '/trail/verification',
    summary: 'Verify the chain of what belongs to no site',
    needs: 'keep the trail',
    answers: trailVerificationSchema,
  }),
  houseSettlement: route({
    method: 'post',
    path: '/trail/settlement',
    summary: 'Settle the breaks in the record of what belongs to no site, with a reason',
    needs: 'keep the trail',
    body: settleTrailSchema,
    answers: trailVerificationSchema,
  }),
};
