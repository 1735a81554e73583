/** Cards from a sheet, row by row: reviewed first, and entered as they were reviewed. */
import { cardStateSchema } from '@rawbits/core/access';
import { z } from 'zod';
import { idSchema, instant, notes, whereSchema } from './parts.ts';
import { route } from './route.ts';

/** So many rows are sent at once. */
export const MOST_SHEET_ROWS = 10_000;

/** A row that cannot be entered, and why. */
export const refusedRowSchema = z.object({
  row: z.number().int(),
  message: z.string(),
  hint: z.string().optional(),
  where: whereSchema.optional(),
});
export type RefusedRow = z.infer<typeof refusedRowSchema>;

/** A row as it stands in the sheet: what of it cannot be is told row by row. */
export const sheetRowSchema = z.strictObject({
  /** Its number in the sheet, from 1. */
  row: z.number().int().min(1),
  /** Empty where the format carries none. */
  facility: z.string().max(60).default(''),
  number: z.string().max(200),
  printed: z.string().max(80).default(''),
  state: cardStateSchema.optional(),
  holder: z.string().max(120).default(''),
  department: z.string().max(120).default(''),
  validFrom: instant.nullable().default(null),
  validTo: instant.nullable().default(null),
  notes: notes.default(''),
});
export type SheetRow = z.input<typeof sheetRowSchema>;

export const sheetSchema = z.strictObject({
  formatId: idSchema,
  rows: z.array(sheetRowSchema).min(1).max(MOST_SHEET_ROWS),
});

export const sheetReviewSchema = z.object({
  /** How many rows are cards that can be entered. */
  good: z.number().int(),
  /** How many of them are held by somebody, and how many stay in stock. */
  held: z.number().int(),
  inStock: z.number().int(),
  /** People who are not among the cardholders yet, the first hundred by name. */
  newHolders: z.object({ count: z.number().int(), names: z.array(z.string()) }),
  bad: z.array(refusedRowSchema),
});
export type SheetReview = z.infer<typeof sheetReviewSchema>;

const limits = { bytes: 4_000_000, entries: MOST_SHEET_ROWS + 1 };

export const sheetApi = {
  review: route({
    method: 'post',
    path: '/sites/{site}/sheet-review',
    summary: 'What entering the rows of a sheet would put on file, and which rows cannot be; nothing is written',
    needs: 'keep cards',
    body: sheetSchema,
    limits,
    answers: sheetReviewSchema,
  }),
  enter: route({
    method: 'post',
    path: '/sites/{site}/sheets',
    summary: 'Enter the good rows of a sheet as it was reviewed: all of them or none',
    needs: 'keep cards',
    body: sheetSchema.extend({
      name: z.string().trim().max(120).default(''),
      /** How many rows were good when they were reviewed. */
      good: z.number().int().min(1),
    }),
    limits,
    answers: z.object({ cards: z.number().int(), newHolders: z.number().int() }),
  }),
};
