/** Changes that are shown on every card and read before they are saved. */

import { z } from 'zod';
import { newVersionSchema } from './formats.ts';
import { decimal, idSchema, instant } from './parts.ts';
import { route } from './route.ts';

/** A change of what a site accepts. */
export const siteChangeSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('adopt'), format: idSchema }),
  z.strictObject({ kind: z.literal('drop'), format: idSchema }),
  /** A new version of a format the site uses: saved to the library, and taken up by this site. */
  newVersionSchema.extend({ kind: z.literal('new version'), format: idSchema }),
  /** The site takes up another version that is in the library already. */
  z.strictObject({ kind: z.literal('version'), format: idSchema, version: z.number().int() }),
  /** Another code under the same name; the cards on file under it follow. */
  z.strictObject({ kind: z.literal('facility code'), id: idSchema, code: decimal(40) }),
  /** What one controller is to accept; a format of the library that the site does not use yet is taken up with it. */
  z.strictObject({ kind: z.literal('accept'), controller: idSchema, formats: z.array(idSchema).max(200) }),
]);
export type SiteChange = z.infer<typeof siteChangeSchema>;

const countsSchema = z.object({
  same: z.number().int(),
  'decoded differently': z.number().int(),
  'newly accepted': z.number().int(),
  'newly refused': z.number().int(),
});
const verdictSchema = z.object({
  opened: z.boolean(),
  reason: z.string(),
  format: z.string().optional(),
  values: z.record(z.string(), z.string()),
});
const exampleSchema = z.object({
  id: z.string(),
  name: z.string(),
  /** Who holds the card; absent of a read, and of a card that nobody holds. */
  holder: z.string().optional(),
  bits: z.string(),
  outcome: z.enum(['decoded differently', 'newly accepted', 'newly refused']),
  place: z.string(),
  before: verdictSchema,
  after: verdictSchema,
});
/** A card or read that says one thing today and several after the change: each with the card it would be taken for. */
const ambiguousSchema = z.object({
  kind: z.enum(['cards', 'reads']),
  id: z.string(),
  name: z.string(),
  holder: z.string().optional(),
  bits: z.string(),
  place: z.string(),
  meanings: z.array(
    z.object({
      format: z.string(),
      number: z.string(),
      facility: z.string().nullable(),
      card: z.object({ id: z.string(), name: z.string(), holder: z.string().optional() }).nullable(),
    }),
  ),
});
export const dryRunResultSchema = z.object({
  /** What becomes ambiguous, counted once each however many places; the first 200 of the cards and of the reads. */
  ambiguous: z.object({ cards: z.number().int(), reads: z.number().int(), examples: z.array(ambiguousSchema) }),
  reads: countsSchema,
  cards: countsSchema,
  unknownCards: z.number().int(),
  places: z.array(z.object({ id: z.string(), name: z.string(), reads: countsSchema, cards: countsSchema })),
  /** The first 200 of each outcome. */
  readExamples: z.array(exampleSchema),
  cardExamples: z.array(exampleSchema),
});

export const dryRunSchema = z.object({
  id: idSchema,
  change: siteChangeSchema,
  state: z.enum(['running', 'done', 'cancelled', 'failed', 'applied']),
  /** Cards and reads worked through, of how many. */
  done: z.number().int(),
  total: z.number().int(),
  message: z.string(),
  startedBy: z.string(),
  startedAt: instant,
  result: dryRunResultSchema.nullable(),
});
export type DryRunState = z.infer<typeof dryRunSchema>;
/** The operator types how many cards the change refuses. */
export const applySchema = z.strictObject({ refuses: z.number().int().min(0) });

export const dryRunApi = {
  start: route({
    method: 'post',
    path: '/sites/{site}/dry-runs',
    summary: 'Work out what a change would do to every card on file and every read kept; nothing is changed',
    needs: 'use formats',
    body: siteChangeSchema,
    answers: dryRunSchema,
  }),
  one: route({
    method: 'get',
    path: '/sites/{site}/dry-runs/{id}',
    summary: 'How far a dry run is, and what it found',
    needs: 'use formats',
    answers: dryRunSchema,
  }),
  cancel: route({
    method: 'post',
    path: '/sites/{site}/dry-runs/{id}/cancel',
    summary: 'Stop a dry run',
    needs: 'use formats',
    answers: dryRunSchema,
  }),
  apply: route({
    method: 'post',
    path: '/sites/{site}/dry-runs/{id}/apply',
    summary: 'Save the change of a finished dry run; `refuses` is the number of cards that it refuses, typed by hand',
    needs: 'use formats',
    body: applySchema,
    answers: dryRunSchema,
  }),
};
