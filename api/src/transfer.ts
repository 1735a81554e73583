/** A whole site out of an installation, and into another. */
import { z } from 'zod';
import { idSchema, name } from './parts.ts';
import { route } from './route.ts';
import { siteLineSchema } from './siteFile.ts';

export const exportSiteQuerySchema = z.object({
  /** With reads, events and the record. */
  history: z.enum(['true', 'false']).default('true'),
});

/** So many lines of a file go in one piece. */
export const LINES_A_PIECE = 500;

export const importPieceSchema = z.strictObject({
  /** From 1, one after the other; a piece that was taken already is not taken again. */
  piece: z.number().int().min(1),
  /** Lines of the file as they stand in it, without their line feeds. */
  lines: z.array(z.string().max(8_000_000)).min(1).max(LINES_A_PIECE),
});

export const importSchemaOf = z.object({
  id: idSchema,
  /** Pieces and lines taken so far. */
  pieces: z.number().int(),
  lines: z.number().int(),
});
export type SiteImport = z.infer<typeof importSchemaOf>;

export const finishImportSchema = z.strictObject({ name, shortName: name.max(24) });

export const importedSiteSchema = z.object({
  site: idSchema,
  /** Lines taken in, by kind. */
  counts: z.record(z.string(), z.number().int()),
  /** Formats that the library knows otherwise under their name, and what they are called here. */
  renamed: z.array(z.object({ from: z.string(), to: z.string() })),
});
export type ImportedSite = z.infer<typeof importedSiteSchema>;

export const transferApi = {
  exportSite: route({
    method: 'get',
    path: '/sites/{site}/export',
    summary: 'The whole site as a file, a JSON text a line',
    needs: 'manage sites',
    query: exportSiteQuerySchema,
    answers: siteLineSchema,
    streams: true,
  }),
  begin: route({
    method: 'post',
    path: '/imports',
    summary: 'Begin to take in a site from a file; nothing of it is seen until it is finished',
    needs: 'manage sites',
    body: z.strictObject({}),
    answers: importSchemaOf,
  }),
  piece: route({
    method: 'post',
    path: '/imports/{id}/pieces',
    summary: 'The next lines of the file: all of them are taken, or none',
    needs: 'manage sites',
    body: importPieceSchema,
    limits: { bytes: 10_000_000, entries: LINES_A_PIECE },
    answers: importSchemaOf,
  }),
  finish: route({
    method: 'post',
    path: '/imports/{id}/finish',
    summary: 'Make the site of what was taken in; whoever does becomes its administrator',
    needs: 'manage sites',
    body: finishImportSchema,
    answers: importedSiteSchema,
  }),
  giveUp: route({
    method: 'delete',
    path: '/imports/{id}',
    summary: 'Give an import up; what was taken in is taken out again',
    needs: 'manage sites',
    answers: z.object({}),
  }),
};
