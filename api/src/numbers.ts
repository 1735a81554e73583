/** The numbers of a facility code: which are in boxes, on file, reserved or free. */
import { cardStateSchema } from '@rawbits/core/access';
import { z } from 'zod';
import { decimal, idSchema, instant, name } from './parts.ts';
import { route } from './route.ts';

const statesSchema = z.partialRecord(cardStateSchema, z.number().int());
const ofLine = {
  format: idSchema,
  /** Absent where the format carries no facility code. */
  facility: decimal(40).optional(),
};

export const numberLineSchema = z.object({
  formatId: idSchema,
  facility: z.string().nullable(),
  /** The least and the greatest number on file. */
  least: z.string(),
  greatest: z.string(),
});
export type NumberLine = z.infer<typeof numberLineSchema>;

export const numberMapSchema = z.object({
  from: z.string(),
  to: z.string(),
  /** The greatest number that the format has. */
  most: z.string(),
  boxes: z.array(z.object({ id: idSchema, name, first: z.string(), last: z.string() })),
  /** Set where more boxes stand in this part than are given. */
  moreBoxes: z.boolean(),
  reserved: z.array(z.object({ from: z.string(), to: z.string(), note: z.string() })),
  /** Equal parts of the range in which there are cards, rising: `at` counts them from 0. */
  parts: z.array(z.object({ at: z.number().int(), states: statesSchema })),
  /** Into how many parts the range is cut, and how many numbers each has, the last one maybe fewer. */
  count: z.number().int(),
  size: z.string(),
});
export type NumberMap = z.infer<typeof numberMapSchema>;

const runSchema = z.object({ from: z.string(), to: z.string() });

export const toOrderSchema = z.object({
  formatId: idSchema,
  facility: z.string().nullable(),
  /** How many are left in stock. */
  inStock: z.number().int(),
  /** The box that was entered last. */
  newest: z.object({
    id: idSchema,
    name,
    first: z.string(),
    last: z.string(),
    count: z.number().int(),
    enteredAt: instant,
  }),
  /** The next run of free numbers after all that is on file; null where the format has none any more. */
  run: runSchema.nullable(),
});
export type ToOrder = z.infer<typeof toOrderSchema>;

export const numberApi = {
  toOrder: route({
    method: 'get',
    path: '/sites/{site}/numbers/to-order',
    summary:
      'What to order: the codes under which boxes came and few cards are left in stock, each with its next free run',
    needs: 'see the site',
    query: z.object({
      /** Those with fewer than so many left. */
      fewer: z.coerce.number().int().min(1).max(10_000).default(20),
      /** How many numbers a run has; as many as the last box without it. */
      count: z.coerce.number().int().min(1).max(100_000).optional(),
    }),
    answers: z.array(toOrderSchema),
  }),
  lines: route({
    method: 'get',
    path: '/sites/{site}/numbers',
    summary: 'The formats and facility codes under which cards are on file, with their least and greatest number',
    needs: 'see the site',
    answers: z.array(numberLineSchema),
  }),
  map: route({
    method: 'get',
    path: '/sites/{site}/numbers/map',
    summary: 'A range of the numbers of a facility code in equal parts: boxes, cards by state, what is reserved',
    needs: 'see the site',
    query: z.object({
      ...ofLine,
      from: decimal(160),
      to: decimal(160),
      parts: z.coerce.number().int().min(1).max(400).default(200),
    }),
    answers: numberMapSchema,
  }),
  free: route({
    method: 'get',
    path: '/sites/{site}/numbers/free',
    summary: 'The next run of numbers that no card, box or reservation has',
    needs: 'see the site',
    query: z.object({
      ...ofLine,
      from: decimal(160).default('0'),
      count: z.coerce.number().int().min(1).max(100_000).default(100),
    }),
    answers: z.object({
      free: runSchema.nullable(),
      /** Up to where none was found, or where the run ends. */
      searchedTo: z.string(),
    }),
  }),
};
