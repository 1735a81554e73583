/** API: the format library, what a site uses of it, facility codes, translations, files of formats. */
import { z } from 'zod';
import { cardStateSchema } from '../access/index.ts';
import { formatSchema } from '../format/index.ts';
import { translationSchema } from '../translate/index.ts';
import { decimal, idSchema, instant, name, notes, whereSchema } from './parts.ts';

export const libraryFormatSchema = z.object({
  format: formatSchema,
  version: z.number().int(),
  layout: z.string(),
  createdAt: instant,
  createdBy: z.string(),
  reason: z.string(),
  /** The newest version in the library; a site may still use an earlier one. */
  newest: z.number().int(),
  retiredAt: instant.nullable(),
  /** On how many cards this version has proved itself: accepted at a door, or specimens of a case. */
  provenOn: z.number().int(),
});
export type LibraryFormat = z.infer<typeof libraryFormatSchema>;
export const siteFormatSchema = libraryFormatSchema.extend({ adopted: z.boolean() });
export type SiteFormat = z.infer<typeof siteFormatSchema>;
export const newFormatSchema = z.strictObject({
  id: formatSchema.shape.id,
  name,
  layout: z.string().max(20_000),
  notes: notes.optional(),
  source: z.string().trim().max(400).optional(),
});
/** A new version names the one that it was made from, so that of two made at once the second is told. */
export const newVersionSchema = newFormatSchema.omit({ id: true }).extend({
  basedOn: z.number().int(),
  reason: z.string().trim().min(1, 'Say why it changes.').max(400),
});
export type NewVersion = z.infer<typeof newVersionSchema>;
export const retireSchema = z.strictObject({ reason: z.string().trim().min(1, 'Say why.').max(400) });

export const FILE_KINDS = ['json', 'csv', 'lines'] as const;
export const importSchema = z.strictObject({
  kind: z.enum(FILE_KINDS),
  text: z.string().max(8_000_000),
  /** Without it only the review is answered and nothing is saved. */
  save: z.boolean().default(false),
  reason: z.string().trim().max(400).default('imported'),
});
export const importReviewSchema = z.object({
  /** What each format of the file would do to the library. */
  rows: z.array(
    z.object({
      row: z.number().int(),
      id: z.string(),
      name: z.string(),
      layout: z.string(),
      does: z.enum(['add', 'change', 'nothing']),
      /** The layout in the library now, where it would change. */
      now: z.string().nullable(),
    }),
  ),
  problems: z.array(
    z.object({ code: z.string(), message: z.string(), where: whereSchema.optional(), hint: z.string().optional() }),
  ),
  saved: z.boolean(),
});
export type ImportReview = z.infer<typeof importReviewSchema>;
export const exportQuerySchema = z.object({
  kind: z.enum(FILE_KINDS),
  /** Ids separated by commas; the whole library without. */
  ids: z.string().max(20_000).optional(),
});
export const exportedSchema = z.object({ name: z.string(), text: z.string() });

/** What a site uses of a format: the cards on file and where their numbers lie. */
export const formatUseSchema = z.object({
  cards: z.number().int(),
  facilities: z.array(
    z.object({ facility: z.string().nullable(), cards: z.number().int(), least: z.string(), greatest: z.string() }),
  ),
  /** Equal parts of the numbers there are, from the least: how many cards lie in each. */
  parts: z.array(z.object({ from: z.string(), to: z.string(), cards: z.number().int() })),
});
export type FormatUse = z.infer<typeof formatUseSchema>;

const reservedSchema = z
  .strictObject({ from: decimal(40), to: decimal(40), note: z.string().trim().max(200).default('') })
  .refine(({ from, to }) => BigInt(from) <= BigInt(to), 'The range ends before it begins.');
export const facilityCodeSchema = z.object({
  id: idSchema,
  formatId: idSchema.nullable(),
  code: decimal(40),
  name,
  notes: z.string(),
  orderedBy: z.string(),
  orderedFrom: instant.nullable(),
  reserved: z.array(z.object({ from: z.string(), to: z.string(), note: z.string() })),
  revision: z.number().int(),
});
export type FacilityCode = z.infer<typeof facilityCodeSchema>;
const codeFields = {
  name,
  notes: notes.default(''),
  orderedBy: z.string().trim().max(120).default(''),
  orderedFrom: instant.nullable().default(null),
  reserved: z.array(reservedSchema).max(50).default([]),
};
export const newFacilityCodeSchema = z.strictObject({
  formatId: idSchema.nullable().default(null),
  code: decimal(40),
  ...codeFields,
});
export type NewFacilityCode = z.input<typeof newFacilityCodeSchema>;
/** All but the code itself, which changes only by way of a dry run. */
export const facilityCodeChangeSchema = z.strictObject({ revision: z.number().int(), ...codeFields });

const collidingCardSchema = z.object({
  id: idSchema,
  formatId: idSchema,
  facility: z.string().nullable(),
  number: z.string(),
  holder: z.string().nullable(),
  state: cardStateSchema,
});
export const collisionsSchema = z.object({
  /** Numbers that more than one card has; at a controller that ignores the code they are one card. */
  numbers: z.array(
    z.object({
      number: z.string(),
      cards: z.array(collidingCardSchema),
      /** The controllers that ignore the code and are to accept more than one of the cards. */
      at: z.array(z.string()),
    }),
  ),
  /** How many such numbers there are; at most 200 are listed. */
  total: z.number().int(),
  /** Controllers that ignore the code and accept several formats, whether cards meet yet or not. */
  possible: z.array(z.object({ controller: z.string(), formats: z.array(idSchema) })),
});
export type Collisions = z.infer<typeof collisionsSchema>;

export const namedTranslationSchema = z.object({
  id: idSchema,
  name,
  notes: z.string(),
  translation: translationSchema,
  createdBy: z.string(),
  createdAt: instant,
});
export type NamedTranslation = z.infer<typeof namedTranslationSchema>;
export const newTranslationSchema = z.strictObject({
  name,
  notes: notes.default(''),
  translation: translationSchema,
});
