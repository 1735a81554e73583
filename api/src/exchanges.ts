/** What was said to a chip and what it answered, from the blank on, kept as a file; and played again on a simulated card. */
import { PLAN_KINDS } from '@rawbits/core/plan';
import { z } from 'zod';
import { idSchema, instant, name } from './parts.ts';
import { cardStepSchema } from './plans.ts';
import { route } from './route.ts';
import { runKindSchema } from './runKinds.ts';

export const exchangeSchema = z.array(
  z.object({
    command: z.string().max(2000),
    answer: z.string().max(2000),
    /** The card was gone before it answered. */
    gone: z.literal(true).optional(),
  }),
);

export const runStepSchema = z.object({
  n: z.number().int(),
  step: cardStepSchema,
  at: instant,
  /** Commands and answers until the next step; keys are never in them. Null where the server ended before it was kept. */
  exchange: exchangeSchema.nullable(),
});
export type RunStep = z.infer<typeof runStepSchema>;

const planOfRun = z.object({ id: idSchema, name, version: z.number().int().min(1), kind: z.enum(PLAN_KINDS) });

export const keptExchangeSchema = z.object({
  schema: z.literal('rawbits/exchange@2', 'This is no file of commands that Raw Bits kept.'),
  /** How the card was called when it was kept. */
  card: z.string().max(120),
  /** In hex; of a tag where it comes from. */
  uid: z.string().regex(/^([0-9A-F]{8}|[0-9A-F]{14}|[0-9A-F]{16})$/, 'An identifier has 4, 7 or 8 bytes, in hex.'),
  /** Everything that was done to it at this site, in its order. */
  runs: z
    .array(z.object({ run: idSchema, kind: runKindSchema, plan: planOfRun, steps: z.array(runStepSchema).min(1) }))
    .min(1, 'There is no run in it: nothing was said to the card.'),
});
/** The published schema of the file. */
export const keptExchangeJsonSchema = () => ({
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  ...z.toJSONSchema(keptExchangeSchema, { io: 'input' }),
});
export type KeptExchange = z.infer<typeof keptExchangeSchema>;

export const playedAgainSchema = z.object({
  /** Commands that were played; the last of them is the one that differs, where one does. */
  played: z.number().int(),
  /** Those whose answer could be held against nothing: it is not kept, or never came. */
  unseen: z.number().int(),
  differs: z
    .object({
      /** Which of the file’s runs, the number of its step, and which of that step’s commands, from 1. */
      run: z.number().int(),
      step: z.number().int(),
      line: z.number().int(),
      command: z.string(),
      kept: z.string(),
      /** What the simulated card says to it, in words. */
      came: z.string(),
    })
    .nullable(),
  /** A step before it whose commands were not kept. */
  gap: z.object({ run: z.number().int(), step: z.number().int() }).nullable(),
});
export type PlayedAgain = z.infer<typeof playedAgainSchema>;

export const exchangeApi = {
  one: route({
    method: 'get',
    path: '/sites/{site}/runs/{id}/cards/{seq}/exchange',
    summary: 'Everything that was said to a card of a run, from the blank on, as a file; keys are not in it',
    needs: 'see the site',
    answers: keptExchangeSchema,
  }),
  play: route({
    method: 'post',
    path: '/sites/{site}/exchanges/play',
    summary:
      'Play a kept exchange on a simulated card, with the keys of the store, and tell where it answers otherwise',
    needs: 'encode cards',
    body: keptExchangeSchema,
    limits: { entries: 2000, bytes: 4_000_000 },
    answers: playedAgainSchema,
  }),
};
