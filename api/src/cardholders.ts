/** Cardholders: the people who hold cards. */

import { z } from 'zod';
import { idSchema, name } from './parts.ts';
import { route } from './route.ts';

export const cardholderSchema = z.object({ id: idSchema, name, department: z.string(), cards: z.number().int() });

export type Cardholder = z.infer<typeof cardholderSchema>;

export const newCardholderSchema = z.strictObject({ name, department: z.string().trim().max(120).default('') });

export const cardholderApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/cardholders',
    summary: 'The cardholders of a site, with how many cards each holds',
    needs: 'see the site',
    answers: z.array(cardholderSchema),
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
