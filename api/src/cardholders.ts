/** Cardholders: the people who hold cards. */

import { z } from 'zod';
import { idSchema, name } from './parts.ts';
import { route } from './route.ts';

export const cardholderSchema = z.object({ id: idSchema, name, department: z.string(), cards: z.number().int() });

export type Cardholder = z.infer<typeof cardholderSchema>;

export const newCardholderSchema = z.strictObject({ name, department: z.string().trim().max(120).default('') });

export const cardholdersQuerySchema = z.object({
  /** The beginning of a name, or of a word of it. */
  search: z.string().max(120).optional(),
  /** Where the page before ended: its `next`. */
  after: z.string().max(300).optional(),
  limit: z.coerce.number().int().min(1).max(1000).default(200),
});

export const cardholderApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/cardholders',
    summary: 'Cardholders of a site by name, page by page, with how many cards each holds',
    needs: 'see the site',
    query: cardholdersQuerySchema,
    answers: z.object({ cardholders: z.array(cardholderSchema), next: z.string().nullable() }),
  }),
  add: route({
    method: 'post',
    path: '/sites/{site}/cardholders',
    summary: 'A new cardholder',
    needs: 'keep cards',
    body: newCardholderSchema,
    answers: cardholderSchema,
  }),
};
