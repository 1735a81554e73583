/** Cardholders as a sheet: out row by row, and in with a review of who is new and what changes of whom. */
import { z } from 'zod';
import { accessReviewSchema } from './access.ts';
import { cardholderFields } from './cardholders.ts';
import { idSchema } from './parts.ts';
import { route } from './route.ts';
import { MOST_SHEET_ROWS, refusedRowSchema } from './sheets.ts';

/** Stands in the place of an identifier where somebody is not the one of that name who is on file. */
export const SOMEBODY_NEW = 'new';

const { name, department, organisation, kind, contact, notes } = cardholderFields;

/** A row as it stands in the sheet. What is empty, or not in the sheet, leaves what is on file. */
export const personRowSchema = z.strictObject({
  /** Its number in the sheet, from 1. */
  row: z.number().int().min(1),
  /** Who of those on file; `new` for none of them, empty for whoever is called so. */
  id: z.string().max(60).default(''),
  name: z.string().max(120).default(''),
  department: department.default(''),
  organisation: organisation.default(''),
  kind: kind.default(''),
  contact: contact.default(''),
  notes: notes.default(''),
  /** Access groups by their names, with `|` between them. */
  groups: z.string().max(4000).default(''),
});
export type PersonRow = z.input<typeof personRowSchema>;

export const peopleSheetSchema = z.strictObject({ rows: z.array(personRowSchema).min(1).max(MOST_SHEET_ROWS) });

const changedFieldSchema = z.object({ field: z.string(), was: z.string(), is: z.string() });

export const peopleReviewSchema = z.object({
  fresh: z.object({ count: z.number().int(), names: z.array(z.string()) }),
  /** Who is on file and changes: how many, and the first hundred of them. */
  changed: z.object({
    count: z.number().int(),
    rows: z.array(z.object({ row: z.number().int(), name, fields: z.array(changedFieldSchema) })),
  }),
  /** How many stand on file just so. */
  same: z.number().int(),
  bad: z.array(refusedRowSchema),
  /** What it does that they come into groups and leave them. */
  rights: accessReviewSchema,
  /** Stands for all this: a sheet is entered with what was seen. */
  seen: z.string(),
});
export type PeopleReview = z.infer<typeof peopleReviewSchema>;

export const writtenPersonSchema = z.object({
  ...{ id: idSchema, name, department, organisation, kind, contact, notes },
  groups: z.array(z.string()),
  cards: z.number().int(),
});
export type WrittenPerson = z.infer<typeof writtenPersonSchema>;

const limits = { bytes: 6_000_000, entries: MOST_SHEET_ROWS + 1 };

export const peopleSheetApi = {
  out: route({
    method: 'get',
    path: '/sites/{site}/people-sheet',
    summary: 'The cardholders of a site with all that a sheet can hold of them, page by page by name',
    needs: 'see the site',
    query: z.object({
      /** Where the page before ended: its `next`. */
      after: z.string().max(300).optional(),
      limit: z.coerce.number().int().min(1).max(1000).default(1000),
    }),
    answers: z.object({ people: z.array(writtenPersonSchema), next: z.string().nullable() }),
  }),
  review: route({
    method: 'post',
    path: '/sites/{site}/people-sheet-review',
    summary:
      'What entering a sheet of people would do: who is new, what changes of whom, and which doors they gain or lose',
    needs: 'keep cards',
    body: peopleSheetSchema,
    limits,
    answers: peopleReviewSchema,
  }),
  enter: route({
    method: 'post',
    path: '/sites/{site}/people-sheets',
    summary: 'Enter the good rows of a sheet of people as it was reviewed: all of them or none',
    needs: 'keep cards',
    body: peopleSheetSchema.extend({
      name: z.string().trim().max(120).default(''),
      /** The review that was looked at. */
      seen: z.string().max(100),
      /** Set where an assertion is to be broken knowingly. */
      breaking: z.boolean().default(false),
    }),
    limits,
    answers: z.object({ fresh: z.number().int(), changed: z.number().int() }),
  }),
};
