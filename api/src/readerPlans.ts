/** Readers that are set up by a plan: which field they read, by which key; and who would be let in, before a card is made. */
import { placeSchema, readerSettingsSchema } from '@rawbits/core/plan';
import { z } from 'zod';
import { bitsSchema, idSchema, instant, name } from './parts.ts';
import { route } from './route.ts';
import { doorStepSchema } from './wire.ts';

export const readerPlanSchema = z.object({
  readerId: idSchema,
  plan: z.object({ id: idSchema, name, version: z.number().int() }),
  field: z.string(),
  /** Everything that whoever sets up a reader of another make has to know, but the keys themselves. */
  settings: readerSettingsSchema,
  /** Of each key the version that the reader has, and whether another is in use by now. */
  keys: z.array(z.object({ name, version: z.number().int(), checkValue: z.string(), isCurrent: z.boolean() })),
  /** Why every card that it reads is refused; null where nothing of its settings is in the way. */
  problem: z.string().nullable(),
  setBy: name,
  setAt: instant,
});
export type ReaderPlan = z.infer<typeof readerPlanSchema>;

export const wouldOpenSchema = z.object({
  /** What of the settings makes every card refused; null where they are right. */
  problem: z.string().nullable(),
  cards: z.array(
    z.object({
      card: z.string(),
      holder: z.string().nullable(),
      bits: bitsSchema.nullable(),
      steps: z.array(doorStepSchema),
      outcome: z.enum(['opened', 'refused', 'read']),
      reason: z.string(),
    }),
  ),
});
export type WouldOpen = z.infer<typeof wouldOpenSchema>;

const at = '/sites/{site}/readers/{id}/plan';
export const readerPlanApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/reader-plans',
    summary: 'Readers that are set up by a plan',
    needs: 'see the site',
    answers: z.array(readerPlanSchema),
  }),
  set: route({
    method: 'put',
    path: at,
    summary: 'Set a reader up to read a field of a plan, with the keys that are in use',
    needs: 'set up doors',
    body: z.strictObject({
      planId: idSchema,
      /** Where the credential stands. */
      at: placeSchema,
      /** How many bits of the field go over the line; all of them without it. */
      bits: z.number().int().min(1).max(512).optional(),
      /** When what this replaces was set (`setAt`), null where the reader had no plan: another is not replaced unseen. */
      over: instant.nullable().optional(),
    }),
    answers: readerPlanSchema,
  }),
  end: route({
    method: 'delete',
    path: at,
    summary: 'Have a reader read as it did before: by the UID, or the bits of a tag',
    needs: 'set up doors',
    query: z.object({ over: instant.optional() }),
    answers: z.object({}),
  }),
  wouldOpen: route({
    method: 'get',
    path: `${at}/who`,
    summary:
      'What each card of a run, or of those encoded by the plan, would deliver at a reader, and whether its controller would open',
    needs: 'see the site',
    query: z.object({ run: idSchema.optional(), limit: z.coerce.number().int().min(1).max(200).default(100) }),
    answers: wouldOpenSchema,
  }),
};
