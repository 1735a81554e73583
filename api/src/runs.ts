/** Runs: batches of cards at a pad, encoded, brought along, verified or taken back, one after the other. */
import { PLAN_KINDS } from '@rawbits/core/plan';
import { z } from 'zod';
import { runStepSchema } from './exchanges.ts';
import { padCardSchema } from './pad.ts';
import { decimal, idSchema, instant, name } from './parts.ts';
import { cardStepSchema } from './plans.ts';
import { route } from './route.ts';
import { runKindSchema } from './runKinds.ts';

const padIdSchema = z.string().min(1).max(90);

/** Which cards an encoding run is for: those in stock, in the order of their numbers; these; or the next free numbers. */
export const runCardsSchema = z.discriminatedUnion('from', [
  z.strictObject({
    from: z.literal('stock'),
    formatId: idSchema,
    facility: decimal(40).nullable().default(null),
    count: z.number().int().min(1).max(5000),
  }),
  z.strictObject({ from: z.literal('list'), cards: z.array(idSchema).min(1).max(5000) }),
  z.strictObject({
    from: z.literal('next numbers'),
    formatId: idSchema,
    facility: decimal(40).nullable().default(null),
    /** The least of them; without it the one after the greatest on file. */
    first: decimal(40).nullable().default(null),
    count: z.number().int().min(1).max(5000),
  }),
]);

export const newRunSchema = z
  .strictObject({
    kind: runKindSchema,
    planId: idSchema,
    pads: z.array(padIdSchema).min(1, 'Choose a pad.').max(20),
    /** Of an encoding run. */
    cards: runCardsSchema.optional(),
    /** Of a hand-back: the plan’s name of the third party’s key. */
    under: name.optional(),
    /** Also blanks that have something on them which no plan of this site put there. */
    takesUsed: z.boolean().default(false),
  })
  .refine(({ kind, cards }) => (kind === 'encode') === (cards !== undefined), {
    message: 'Say which cards are to be encoded.',
    path: ['cards'],
  })
  .refine(({ kind, under }) => (kind === 'hand back') === (under !== undefined), {
    message: 'Say by whose grant the cards are freed.',
    path: ['under'],
  });
export type NewRun = z.input<typeof newRunSchema>;

const weight = z.enum(['waits', 'works', 'done', 'problem']);

/** How a pad stands: what it waits for, what it does, or what is in the way. */
export const padTellsSchema = z.object({
  pad: padIdSchema,
  name,
  weight,
  says: z.string(),
  /** What to do; empty where there is nothing. */
  next: z.string(),
  card: z.string().nullable(),
  /** How it ended with the card before, which may be gone by the time somebody looks. */
  last: z.object({ weight, says: z.string(), card: z.string().nullable() }).nullable(),
  at: instant,
});
export type PadTells = z.infer<typeof padTellsSchema>;

export const runSchema = z.object({
  id: idSchema,
  kind: runKindSchema,
  plan: z.object({ id: idSchema, name, version: z.number().int(), kind: z.enum(PLAN_KINDS) }),
  state: z.enum(['going', 'stopped', 'done', 'cancelled']),
  wanted: z.number().int(),
  done: z.number().int(),
  /** Cards that are begun and not finished, or turned out to differ. */
  amiss: z.number().int(),
  startedBy: name,
  startedAt: instant,
  endedAt: instant.nullable(),
  /** Milliseconds a card takes, from blank to verified; null until one is done. */
  paceMs: z.number().int().nullable(),
  under: z.string().nullable(),
  pads: z.array(padTellsSchema),
});
export type Run = z.infer<typeof runSchema>;

export const RUN_CARD_STATES = ['waiting', 'begun', 'finished', 'differs', 'given up', 'freed'] as const;
export const runCardSchema = z.object({
  seq: z.number().int(),
  /** How the card is called: facility code and number. */
  card: z.string(),
  cardId: idSchema.nullable(),
  holder: z.string().nullable(),
  uid: z.string().nullable(),
  state: z.enum(RUN_CARD_STATES),
  /** What is in the way, or what differs. */
  message: z.string(),
  tries: z.number().int(),
  endedAt: instant.nullable(),
});
export type RunCard = z.infer<typeof runCardSchema>;

export const padOfferedSchema = z.object({ id: padIdSchema, name, connected: z.boolean(), run: idSchema.nullable() });
export type PadOffered = z.infer<typeof padOfferedSchema>;

/** A card that lies on a pad, as far as it is known. */
export const lookedSchema = z.object({
  found: padCardSchema.nullable(),
  /** Why none is found; empty where one is. */
  problem: z.string(),
  /** What is on file of it. */
  onFile: z
    .object({
      uid: z.string(),
      card: z.string().nullable(),
      holder: z.string().nullable(),
      plan: z.object({ id: idSchema, name, version: z.number().int(), current: z.number().int() }),
      state: z.enum(['begun', 'whole', 'given up']),
      keys: z.record(z.string(), z.number().int()),
    })
    .nullable(),
  /** Held against a plan: what differs, and what cannot be told; null where no plan was opened by any key. */
  against: z
    .object({
      plan: z.object({ id: idSchema, name, version: z.number().int() }),
      differs: z.array(cardStepSchema),
      unread: z.array(z.string()),
      others: z.array(z.string()),
      keys: z.array(z.string()),
    })
    .nullable(),
  /** What stands in its files. */
  fields: z.array(
    z.object({
      application: z.string(),
      file: z.number().int(),
      field: z.string(),
      value: z.string(),
      holds: z.boolean(),
    }),
  ),
  /** Whether it is as the factory sends it. */
  isBlank: z.boolean(),
});
export type Looked = z.infer<typeof lookedSchema>;

const at = '/sites/{site}/runs';
export const runApi = {
  list: route({
    method: 'get',
    path: at,
    summary: 'Runs of a site, the newest first',
    needs: 'see the site',
    answers: z.array(runSchema),
  }),
  one: route({ method: 'get', path: `${at}/{id}`, summary: 'A run', needs: 'see the site', answers: runSchema }),
  start: route({
    method: 'post',
    path: at,
    summary: 'Start a run: it waits at its pads for the first card',
    needs: 'encode cards',
    body: newRunSchema,
    limits: { entries: 5000, bytes: 400_000 },
    answers: runSchema,
  }),
  stop: route({
    method: 'post',
    path: `${at}/{id}/stop`,
    summary: 'Let a run rest: the card on the pad is finished first',
    needs: 'encode cards',
    answers: runSchema,
  }),
  goOn: route({
    method: 'post',
    path: `${at}/{id}/go-on`,
    summary: 'Go on with a run',
    needs: 'encode cards',
    body: z.strictObject({ pads: z.array(padIdSchema).min(1).max(20) }),
    answers: runSchema,
  }),
  end: route({
    method: 'post',
    path: `${at}/{id}/end`,
    summary: 'End a run for good: numbers that were not encoded are free for another',
    needs: 'encode cards',
    answers: runSchema,
  }),
  cards: route({
    method: 'get',
    path: `${at}/{id}/cards`,
    summary: 'The cards of a run, page by page',
    needs: 'see the site',
    query: z.object({
      after: z.coerce.number().int().min(0).default(0),
      limit: z.coerce.number().int().min(1).max(1000).default(200),
      only: z.enum(['all', 'amiss']).default('all'),
    }),
    answers: z.object({ cards: z.array(runCardSchema), next: z.number().int().nullable() }),
  }),
  steps: route({
    method: 'get',
    path: `${at}/{id}/cards/{seq}`,
    summary: 'What was done to a card of a run, step by step, with the commands',
    needs: 'see the site',
    answers: z.array(runStepSchema),
  }),
  giveUp: route({
    method: 'post',
    path: `${at}/{id}/cards/{seq}/give-up`,
    summary: 'Give up a card that was begun: its number goes to another blank, and it is freed when it comes back',
    needs: 'encode cards',
    answers: runSchema,
  }),
  pads: route({
    method: 'get',
    path: '/sites/{site}/pads',
    summary: 'The pads of a site and the runs that have them',
    needs: 'see the site',
    answers: z.array(padOfferedSchema),
  }),
  look: route({
    method: 'post',
    path: '/sites/{site}/pad/look',
    summary: 'Read the card on a pad with the keys at hand, and hold it against the plans',
    needs: 'encode cards',
    body: z.strictObject({ pad: padIdSchema.nullable().default(null) }),
    answers: lookedSchema,
  }),
};
