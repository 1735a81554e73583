/** Cards that are known by their whole string alone, and their numbers once a format is found. */
import { z } from 'zod';
import { cardSchema } from './cards.ts';
import { idSchema } from './parts.ts';
import { route } from './route.ts';

/** So many get their numbers at once; the others are asked for again. */
export const MOST_WHOLE = 1000;

export const wholeCardSchema = cardSchema
  .pick({ id: true, revision: true, printed: true, state: true, holder: true })
  .extend({
    /** The whole string as a decimal: what the card is called until then. */
    whole: z.string(),
    facility: z.string().nullable(),
    number: z.string(),
    /** Why it cannot be called so; null where nothing stands against it. */
    refused: z.string().nullable(),
  });
export type WholeCard = z.infer<typeof wholeCardSchema>;

export const wholeCardApi = {
  review: route({
    method: 'get',
    path: '/sites/{site}/formats/{format}/whole-cards',
    summary: 'Cards known by their whole string alone that this format reads, with the numbers that it gives them',
    needs: 'see the site',
    answers: z.object({
      cards: z.array(wholeCardSchema),
      /** How many of that length it does not read: they stay as they are. */
      others: z.number().int(),
    }),
  }),
  give: route({
    method: 'post',
    path: '/sites/{site}/formats/{format}/whole-cards',
    summary: 'Give cards that are known by their whole string the numbers that a format reads: all of them or none',
    needs: 'keep cards',
    body: z.strictObject({
      cards: z
        .array(z.strictObject({ id: idSchema, revision: z.number().int() }))
        .min(1)
        .max(MOST_WHOLE),
    }),
    limits: { bytes: 200_000, entries: MOST_WHOLE + 1 },
    answers: z.object({ cards: z.number().int() }),
  }),
};
