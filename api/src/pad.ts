/** The pad: what lies on it, and what that says of itself. */
import { z } from 'zod';
import { idSchema } from './parts.ts';
import { route } from './route.ts';

const hex = z.string();

/** What a card says of itself to anybody who selects it. */
export const padCardSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('files'),
    uid: hex,
    /** Drawn anew on every selection: it says nothing of the card. */
    uidIsRandom: z.boolean(),
    ats: hex,
    /** Undefined where the card does not say, or says one that is not known. */
    generation: z.number().int().optional(),
    bytesFree: z.number().int().nullable(),
    /** Identifiers in hex; null where the card lists them only to whoever has its key. */
    applications: z.array(hex).nullable(),
  }),
  z.object({ kind: z.literal('sectors'), uid: hex, size: z.enum(['1K', '4K']) }),
  /** A proximity tag: which one it is, and what it sends to anybody near. */
  z.object({
    kind: z.literal('tag'),
    uid: hex,
    sends: z
      .discriminatedUnion('is', [
        z.object({ is: z.literal('identification'), data: hex }),
        z.object({ is: z.literal('string'), bits: z.string() }),
        z.object({ is: z.literal('blocks'), words: z.array(hex) }),
      ])
      .nullable(),
    hasPassword: z.boolean(),
  }),
  z.object({ kind: z.literal('unknown'), uid: hex, sak: z.number().int() }),
]);
export type PadCard = z.infer<typeof padCardSchema>;

export const padStateSchema = z.object({
  answers: z.boolean(),
  /** The credentials of the tray that lie on it. */
  cards: z.array(idSchema),
  /** The one card on it; null where there is none, or two. */
  found: padCardSchema.nullable(),
  /** Why none is found, or what it refuses; empty where there is nothing to say. */
  problem: z.string(),
});
export type PadState = z.infer<typeof padStateSchema>;

export const padApi = {
  state: route({
    method: 'get',
    path: '/sites/{site}/pad',
    summary: 'What lies on the pad, and what it says of itself',
    needs: 'see the site',
    answers: padStateSchema,
  }),
  lay: route({
    method: 'put',
    path: '/sites/{site}/pad',
    summary: 'Lay credentials of the rig’s tray on its pad, in place of what lies there',
    needs: 'take reads',
    body: z.strictObject({
      cards: z
        .array(idSchema)
        .max(2, 'Two at most fit on the pad.')
        .refine((cards) => new Set(cards).size === cards.length, 'One card lies there once.'),
    }),
    answers: padStateSchema,
  }),
  tear: route({
    method: 'post',
    path: '/sites/{site}/pad/tear',
    summary:
      'Have the card on the pad of the rig torn away while it is worked on: at the next command, or so many later',
    needs: 'take reads',
    body: z.strictObject({
      at: z.enum(['before', 'during', 'after']).default('during'),
      after: z.number().int().min(0).max(1000).default(0),
    }),
    answers: z.object({}),
  }),
};
