/** Readers that are armed: the next card held to one fills what waits for it. */
import { z } from 'zod';
import { idSchema, instant, name } from './parts.ts';
import { readSchema } from './reads.ts';
import { route } from './route.ts';

export const armedSchema = z.object({
  readerId: idSchema,
  reader: name,
  /** Who waits at it. */
  by: z.string(),
  isMine: z.boolean(),
  until: instant,
  /** For how long still, in milliseconds, by the server’s clock. */
  leftMs: z.number().int(),
  /** The read that came; null while it is waited for. */
  read: readSchema.nullable(),
});
export type Armed = z.infer<typeof armedSchema>;

export const armingSchema = z.strictObject({ seconds: z.number().int().min(5).max(300).default(30) });

export const armingApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/armed-readers',
    summary: 'The readers at which somebody waits for a card',
    needs: 'see the site',
    answers: z.array(armedSchema),
  }),
  arm: route({
    method: 'post',
    path: '/sites/{site}/readers/{id}/arming',
    summary: 'Arm a reader for oneself: the next card held to it within a while is the one that is waited for',
    needs: 'take reads',
    body: armingSchema,
    answers: armedSchema,
  }),
  disarm: route({
    method: 'delete',
    path: '/sites/{site}/readers/{id}/arming',
    summary: 'Wait at a reader no more',
    needs: 'take reads',
    answers: z.object({}),
  }),
};
