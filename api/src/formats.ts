/** The format library, its versions and files, and what a site uses of it. */
import { formatSchema } from '@rawbits/core/format';
import { z } from 'zod';
import { instant, name, notes, whereSchema } from './parts.ts';
import { route } from './route.ts';

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

export const formatApi = {
  library: route({
    method: 'get',
    path: '/formats',
    summary: 'The format library: the current version of each format, those retired too',
    needs: 'signed in',
    answers: z.array(libraryFormatSchema),
  }),
  add: route({
    method: 'post',
    path: '/formats',
    summary: 'A new format in the library, from its layout line',
    needs: 'define formats',
    body: newFormatSchema,
    answers: libraryFormatSchema,
  }),
  versions: route({
    method: 'get',
    path: '/formats/{format}/versions',
    summary: 'Every version of a format, the newest first; a saved one never changes',
    needs: 'signed in',
    answers: z.array(libraryFormatSchema),
  }),
  addVersion: route({
    method: 'post',
    path: '/formats/{format}/versions',
    summary: 'A new version, with its reason; sites go on with the version that they have until they take it up',
    needs: 'define formats',
    body: newVersionSchema,
    answers: libraryFormatSchema,
  }),
  ofSite: route({
    method: 'get',
    path: '/sites/{site}/formats',
    summary: 'The library as the site sees it: which formats it has adopted, in the version adopted',
    needs: 'see the site',
    answers: z.array(siteFormatSchema),
  }),
  adopt: route({
    method: 'put',
    path: '/sites/{site}/formats/{format}',
    summary: 'Adopt the newest version of a format; where the site uses one already, nothing changes',
    needs: 'use formats',
    answers: z.object({}),
  }),
  drop: route({
    method: 'delete',
    path: '/sites/{site}/formats/{format}',
    summary: 'Give an adopted format up; refused while cards or controllers of the site use it',
    needs: 'use formats',
    answers: z.object({}),
  }),
  use: route({
    method: 'get',
    path: '/sites/{site}/formats/{format}/use',
    summary: 'What the site uses of a format: facility codes, and where the numbers of its cards lie',
    needs: 'see the site',
    answers: formatUseSchema,
  }),
  importFormats: route({
    method: 'post',
    path: '/formats/import',
    summary: 'Review a file of formats, and save it: all of it or nothing',
    needs: 'define formats',
    body: importSchema,
    limits: { bytes: 10_000_000 },
    answers: importReviewSchema,
  }),
  exportFormats: route({
    method: 'get',
    path: '/formats/export',
    summary: 'The library, or the formats named, as a file',
    needs: 'signed in',
    query: exportQuerySchema,
    answers: exportedSchema,
  }),
  retire: route({
    method: 'post',
    path: '/formats/{format}/retire',
    summary: 'Retire a format: no site can take it up anew; those that use it go on, and its history stays',
    needs: 'define formats',
    body: retireSchema,
    answers: libraryFormatSchema,
  }),
  reinstate: route({
    method: 'post',
    path: '/formats/{format}/reinstate',
    summary: 'Take a retired format back into the library',
    needs: 'define formats',
    body: retireSchema,
    answers: libraryFormatSchema,
  }),
};
