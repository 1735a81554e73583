/** Events: what happened at the doors. */
import { STEPS } from '@rawbits/core/access';
import { z } from 'zod';
import { bitsSchema, idSchema, instant, name } from './parts.ts';
import { route } from './route.ts';
import { doorStepSchema } from './wire.ts';

/** Where a presentation can stop: at the chip, before anything went over the line, or at a step of the controller. */
export const STOPS = ['chip', ...STEPS] as const;

/** What a controller decided on a read, when it came. */
export const readDecisionSchema = z.object({
  at: instant,
  outcome: z.enum(['opened', 'refused']),
  stoppedAt: z.enum(STOPS).nullable(),
  reason: z.string(),
  /** What Raw Bits knew beyond what the controller knew. */
  advice: z.string().nullable(),
});

export const eventSchema = z.object({
  id: idSchema,
  at: instant,
  kind: z.enum(['presented', 'loaded', 'load failed']),
  controller: z.object({ id: idSchema, name }).nullable(),
  reader: z.object({ id: idSchema, name }).nullable(),
  readId: idSchema.nullable(),
  bits: bitsSchema.nullable(),
  outcome: z.enum(['opened', 'refused']).nullable(),
  stoppedAt: z.enum(STOPS).nullable(),
  reason: z.string(),
  /** What Raw Bits knows beyond what the controller knew, for instance that the card waits to be loaded. */
  advice: z.string().nullable(),
  card: z.object({ id: idSchema, holder: z.string().nullable() }).nullable(),
  /** What a reader that reads chips did, step by step; null of others. */
  chip: z.array(doorStepSchema).nullable(),
});

export type AccessEvent = z.infer<typeof eventSchema>;

export const eventQuerySchema = z.object({
  controller: idSchema.optional(),
  limit: z.coerce.number().int().min(1).max(500).default(50),
  before: instant.optional(),
});

export const eventApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/events',
    summary: 'Presentations and loads, newest first',
    needs: 'see the site',
    query: eventQuerySchema,
    answers: z.array(eventSchema),
  }),
};
