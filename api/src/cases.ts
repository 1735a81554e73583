/** Cases, the identifications under way at a site. */
import { formatSchema } from '@rawbits/core/format';
import { specimenSchema } from '@rawbits/core/identify';
import { translationSchema } from '@rawbits/core/translate';
import { z } from 'zod';
import { decimal, idSchema, instant, name } from './parts.ts';
import { route } from './route.ts';

/** A specimen as a case keeps it: with whether it is set aside, and where it was read. */
export const caseSpecimenSchema = specimenSchema.extend({
  setAside: z.boolean().optional(),
  /** The reader, or how it came in. */
  source: z.string().max(120).optional(),
  at: instant.optional(),
  /** Its bits as they were read, where an error of the read was put right. */
  asRead: specimenSchema.shape.bits.optional(),
});
export type CaseSpecimen = z.infer<typeof caseSpecimenSchema>;

export const questionsSchema = z.strictObject({
  /** Prints whose bits are to be predicted. */
  predict: z.array(z.string().max(80)).max(200).default([]),
  /** The range of the box, for the card to read next. */
  range: z
    .strictObject({ from: decimal(40), to: decimal(40) })
    .nullable()
    .default(null),
});
export type Questions = z.infer<typeof questionsSchema>;

/** For which range of cards a format was settled when it was made of a case, and how far. */
export const settledForSchema = z.strictObject({
  from: decimal(40),
  to: decimal(40),
  of: decimal(40),
  proven: z.number().int().min(0),
  settled: z.number().int().min(0),
  likely: z.number().int().min(0),
  open: z.number().int().min(0),
  /** With so many specimens. */
  specimens: z.number().int().min(0),
});
export type SettledFor = z.infer<typeof settledForSchema>;

export const caseSummarySchema = z.object({
  id: idSchema,
  name,
  specimens: z.number().int(),
  formatId: idSchema.nullable(),
  settledFor: settledForSchema.nullable(),
  createdBy: z.string(),
  changedAt: instant,
});
export type CaseSummary = z.infer<typeof caseSummarySchema>;
export const caseSchema = caseSummarySchema.extend({
  revision: z.number().int(),
  specimens: z.array(caseSpecimenSchema),
  questions: questionsSchema,
});
export type Case = z.infer<typeof caseSchema>;

const specimens = z.array(caseSpecimenSchema).max(10_000);
export const newCaseSchema = z.strictObject({
  name,
  specimens: specimens.default([]),
  questions: questionsSchema.default({ predict: [], range: null }),
});
/** A change in one place of the specimens: so many are taken out from a place on (from 0), and others are put there. */
export const spliceSchema = z.strictObject({
  at: z.number().int().min(0).max(10_000),
  remove: z.number().int().min(0).max(10_000),
  add: specimens,
});
export type Splice = z.infer<typeof spliceSchema>;
/** A change names the revision that it was made from, so that two changes cannot pass unseen. Specimens: all, or a change of some. */
export const caseChangeSchema = z
  .strictObject({
    revision: z.number().int(),
    name: name.optional(),
    specimens: specimens.optional(),
    splice: spliceSchema.optional(),
    questions: questionsSchema.optional(),
  })
  .refine(({ specimens: all, splice }) => all === undefined || splice === undefined, {
    path: ['splice'],
    message: 'Send either all specimens or a change of some.',
  });
/** How it stands after a change; what was sent is not sent back. */
export const caseChangedSchema = z.object({ id: idSchema, revision: z.number().int(), changedAt: instant });

/** What is made of a case: a format for the site, its facility code, a translation. */
export const caseResultSchema = z.strictObject({
  revision: z.number().int(),
  /** A format of the library, or a new one by its layout line. */
  format: z.union([
    z.strictObject({ id: formatSchema.shape.id }),
    z.strictObject({ id: formatSchema.shape.id, name, layout: z.string().max(20_000) }),
  ]),
  /** How far it is settled, in the words of the case: it becomes the reason of a new format. */
  standing: z.enum(['proven', 'presumed']),
  /** For which range it is settled. */
  settledFor: settledForSchema.omit({ specimens: true }).nullable().default(null),
  facility: z
    .strictObject({ code: decimal(40), name })
    .nullable()
    .default(null),
  translation: z.strictObject({ name, translation: translationSchema }).nullable().default(null),
});
export const caseOutcomeSchema = z.object({
  formatId: idSchema,
  version: z.number().int(),
  /** On how many specimens the format proved itself. */
  evidence: z.number().int(),
});

export const CASE_SCHEMA = 'rawbits/case@1';
/** A case as a file. */
export const caseFileSchema = z.strictObject({
  schema: z.literal(CASE_SCHEMA),
  name,
  specimens,
  questions: questionsSchema,
});
export type CaseFile = z.infer<typeof caseFileSchema>;

/** The published JSON Schema of a case. */
export function caseFileJsonSchema(): Record<string, unknown> {
  return {
    $id: 'https://rawbits.example/schema/case-1.json',
    title: 'A Raw Bits case, version 1',
    ...(z.toJSONSchema(caseFileSchema, { io: 'input' }) as Record<string, unknown>),
  };
}

export const caseApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/cases',
    summary: 'The cases of a site, the last changed first',
    needs: 'see the site',
    answers: z.array(caseSummarySchema),
  }),
  one: route({
    method: 'get',
    path: '/sites/{site}/cases/{id}',
    summary: 'One case with its specimens',
    needs: 'see the site',
    answers: caseSchema,
  }),
  add: route({
    method: 'post',
    path: '/sites/{site}/cases',
    summary: 'Start a case',
    needs: 'identify cards',
    body: newCaseSchema,
    limits: { bytes: 10_000_000, entries: 10_000 },
    answers: caseSchema,
  }),
  update: route({
    method: 'patch',
    path: '/sites/{site}/cases/{id}',
    summary: 'Change a case: its name, its specimens, what is asked of it',
    needs: 'identify cards',
    body: caseChangeSchema,
    limits: { bytes: 10_000_000, entries: 10_000 },
    answers: caseChangedSchema,
  }),
  remove: route({
    method: 'delete',
    path: '/sites/{site}/cases/{id}',
    summary: 'Give a case up; formats that came of it stay',
    needs: 'identify cards',
    answers: z.object({}),
  }),
  result: route({
    method: 'post',
    path: '/sites/{site}/cases/{id}/result',
    summary:
      'Make the format of a case, for this site, with the case as its evidence; its facility code and translation',
    needs: 'identify cards',
    body: caseResultSchema,
    answers: caseOutcomeSchema,
  }),
};
