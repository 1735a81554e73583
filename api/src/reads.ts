/** Reads: what readers delivered and what was pasted. */

import { MOST_LINES } from '@rawbits/core/intake';
import { z } from 'zod';
import { readDecisionSchema } from './events.ts';
import { bitsSchema, idSchema, instant, name } from './parts.ts';
import { route } from './route.ts';

export const readSchema = z.object({
  id: idSchema,
  at: instant,
  bits: bitsSchema,
  source: z.enum(['reader', 'paste']),
  notation: z.string().nullable(),
  reader: z.object({ id: idSchema, name }).nullable(),
  /** What was decided on it at its door; null of what was pasted, or read where no door is. */
  decision: readDecisionSchema.nullable(),
});

export type Read = z.infer<typeof readSchema>;

export const newReadSchema = z.strictObject({ bits: bitsSchema, notation: z.string().max(60) });

export const readQuerySchema = z.object({
  /** Part of the binary digits, the right-justified hex, the length, or the reader's name. */
  search: z.string().max(600).optional(),
  limit: z.coerce.number().int().min(1).max(500).default(50),
  before: instant.optional(),
});

export const readApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/reads',
    summary: 'Reads kept, newest first; search by bits, hex, length or reader',
    needs: 'see the site',
    query: readQuerySchema,
    answers: z.array(readSchema),
  }),
  add: route({
    method: 'post',
    path: '/sites/{site}/reads',
    summary: 'Keep a pasted read',
    needs: 'take reads',
    body: newReadSchema,
    answers: readSchema,
  }),
  addMany: route({
    method: 'post',
    path: '/sites/{site}/reads/lines',
    summary: 'Keep several pasted reads, all or none of them',
    needs: 'take reads',
    body: z.strictObject({ reads: z.array(newReadSchema).min(1).max(MOST_LINES) }),
    limits: { bytes: 1_400_000, entries: MOST_LINES },
    answers: z.object({ kept: z.number().int() }),
  }),
};
