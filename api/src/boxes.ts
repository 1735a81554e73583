/** Boxes: cards bought together, reviewed and entered in one go from their label. */
import { cardStateSchema } from '@rawbits/core/access';
import { boxLabelSchema } from '@rawbits/core/box';
import { z } from 'zod';
import { reservedSchema } from './facilityCodes.ts';
import { bitsSchema, idSchema, instant, name, notes } from './parts.ts';
import { route } from './route.ts';

/** In which state the cards of a box are entered: none of them opens anything. */
export const BOX_STATES = ['in stock', 'suspended'] as const;

export const newBoxSchema = boxLabelSchema.extend({
  name,
  formatId: idSchema,
  notes: notes.default(''),
  state: z.enum(BOX_STATES).default('in stock'),
  /** Blank cards: these numbers are on none of them yet, and encoding runs may take them. */
  blanks: z.boolean().default(false),
});
export type NewBox = z.input<typeof newBoxSchema>;

/** How many cards are in each state that some are in. */
const statesSchema = z.partialRecord(cardStateSchema, z.number().int());

export const boxSchema = boxLabelSchema.extend({
  id: idSchema,
  name,
  formatId: idSchema,
  /** How many cards the label is about. */
  count: z.number().int(),
  /** How many of them are on file, by state; those that were on file before the box are not of it. */
  states: statesSchema,
  notes: z.string(),
  /** Whether its cards are blanks to be encoded. */
  blanks: z.boolean(),
  enteredBy: z.string(),
  enteredAt: instant,
  revision: z.number().int(),
});
export type Box = z.infer<typeof boxSchema>;

const rangeSchema = z.object({ from: z.string(), to: z.string() });
const metSchema = z.object({
  id: idSchema,
  formatId: idSchema,
  facility: z.string().nullable(),
  number: z.string(),
  state: cardStateSchema,
  holder: z.string().nullable(),
});
const cardOfBoxSchema = z.object({ number: z.string(), printed: z.string(), bits: bitsSchema });

export const boxReviewSchema = z.object({
  /** How many cards the label is about. */
  count: z.number().int(),
  /** How many of them are on file in no way yet. */
  fresh: z.number().int(),
  first: cardOfBoxSchema,
  last: cardOfBoxSchema,
  /** Cards of this format, code and number that are on file; the first 100 runs of them. */
  onFile: z.object({
    cards: z.number().int(),
    states: statesSchema,
    runs: z.array(rangeSchema.extend({ cards: z.number().int() })),
  }),
  /** Boxes that name some of the numbers. */
  boxes: z.array(rangeSchema.extend({ id: idSchema, name, first: z.string(), last: z.string() })),
  /** Cards that deliver the same bits under another format; `more` where more than `cards` were not counted. */
  sameBits: z.object({ cards: z.number().int(), examples: z.array(metSchema) }),
  /** Cards that are one with a card of the box at controllers which ignore the facility code. */
  sameNumber: z.object({
    cards: z.number().int(),
    more: z.boolean(),
    controllers: z.array(z.string()),
    examples: z.array(metSchema),
  }),
  /** Reserved ranges that the box reaches into. */
  reserved: z.array(reservedSchema),
  /** The boxes of the same code that begin below and end above it, the nearest, and the numbers between that are on no box. */
  below: z.object({ id: idSchema, name, last: z.string(), between: rangeSchema.nullable() }).nullable(),
  above: z.object({ id: idSchema, name, first: z.string(), between: rangeSchema.nullable() }).nullable(),
  /** What a box is entered on: sent back with it, so that nothing comes between unseen. */
  seen: z.string(),
});
export type BoxReview = z.infer<typeof boxReviewSchema>;

/** A box being entered or taken back. */
export const boxWorkSchema = z.object({
  id: idSchema,
  does: z.enum(['enter', 'take back']),
  state: z.enum(['running', 'done', 'cancelled', 'failed']),
  done: z.number().int(),
  total: z.number().int(),
  /** Why it failed. */
  message: z.string(),
  name,
  /** The box; null until it is entered, and once it is taken back. */
  box: idSchema.nullable(),
});
export type BoxWork = z.infer<typeof boxWorkSchema>;

export const boxApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/boxes',
    summary: 'The boxes of a site, newest first, with how many of their cards are in which state',
    needs: 'see the site',
    query: z.object({
      /** Where the page before ended: its `next`. */
      after: z.string().max(200).optional(),
      limit: z.coerce.number().int().min(1).max(500).default(100),
    }),
    answers: z.object({ boxes: z.array(boxSchema), next: z.string().nullable() }),
  }),
  one: route({
    method: 'get',
    path: '/sites/{site}/boxes/{id}',
    summary: 'One box',
    needs: 'see the site',
    answers: boxSchema,
  }),
  review: route({
    method: 'post',
    path: '/sites/{site}/box-review',
    summary: 'What entering a box would put on file, and what it meets there; nothing is written',
    needs: 'keep cards',
    body: newBoxSchema,
    answers: boxReviewSchema,
  }),
  enter: route({
    method: 'post',
    path: '/sites/{site}/boxes',
    summary: 'Enter a box as it was reviewed: all of its cards or none',
    needs: 'keep cards',
    body: newBoxSchema.extend({
      /** The review that this is entered on. */
      seen: z.string().max(200),
      /** Cards that are on file already stay as they are; without this they stand in the way. */
      leaveOut: z.boolean().default(false),
    }),
    answers: boxWorkSchema,
  }),
  update: route({
    method: 'patch',
    path: '/sites/{site}/boxes/{id}',
    summary: 'Change what is said about a box; its numbers stay',
    needs: 'keep cards',
    body: z.strictObject({ revision: z.number().int(), name, notes, blanks: z.boolean().optional() }),
    answers: boxSchema,
  }),
  takeBack: route({
    method: 'delete',
    path: '/sites/{site}/boxes/{id}',
    summary: 'Take back a whole box, as long as none of its cards was issued or encoded',
    needs: 'keep cards',
    query: z.object({ revision: z.coerce.number().int() }),
    answers: boxWorkSchema,
  }),
  work: route({
    method: 'get',
    path: '/sites/{site}/box-work/{id}',
    summary: 'How far the entering or taking back of a box is',
    needs: 'see the site',
    answers: boxWorkSchema,
  }),
  cancel: route({
    method: 'post',
    path: '/sites/{site}/box-work/{id}/cancel',
    summary: 'Stop entering or taking back a box: nothing of it is kept',
    needs: 'keep cards',
    answers: boxWorkSchema,
  }),
};
