/**
 * A whole site as a file: a JSON text a line (UTF-8, each line one of `siteLineSchema`), in the order of `SITE_LINES`,
 * so that whatever a line names stands before it. The last line says how many went before and their digest: a file that
 * was cut or changed on the way is found. Operators, passwords and device hosts are the installation's and not in it.
 */
import { cardStateSchema } from '@rawbits/core/access';
import { accessAssertionSchema, accessGroupSchema, waySchema } from '@rawbits/core/access/rights';
import { holidaySchema, scheduleSchema } from '@rawbits/core/access/schedule';
import { boxLabelSchema } from '@rawbits/core/box';
import { formatSchema } from '@rawbits/core/format';
import { translationSchema } from '@rawbits/core/translate';
import { z } from 'zod';
import { markSchema } from './badges.ts';
import { cardholderRulesSchema, photographSchema } from './cardholders.ts';
import { cardFilterSchema } from './cards.ts';
import { caseSpecimenSchema, questionsSchema, settledForSchema } from './cases.ts';
import { deviceSchema } from './doors.ts';
import { STOPS } from './events.ts';
import { reservedSchema } from './facilityCodes.ts';
import { bitsSchema, decimal, idSchema, instant, name, notes } from './parts.ts';
import { timeZoneSchema } from './sites.ts';

export const SITE_FILE = 'rawbits/site@1';

const reason = z.string().max(400);
const person = z.string().max(120);

/** A line of each kind by its fields; `id`s hold within the file alone. */
export const siteLineSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('site'),
    schema: z.literal(SITE_FILE),
    name,
    shortName: name.max(24),
    timeZone: timeZoneSchema,
    exportedAt: instant,
    exportedBy: person,
    /** Whether reads, events and the record are in it, too. */
    history: z.boolean(),
  }),
  z.strictObject({
    kind: z.literal('format'),
    /** Every version, the oldest first; the site uses `uses`. */
    versions: z
      .array(
        z.strictObject({
          version: z.number().int().min(1),
          format: formatSchema,
          reason,
          createdBy: person,
          createdAt: instant,
        }),
      )
      .min(1)
      .max(1000),
    /** Null where the site has cards of it and uses it no more. */
    uses: z.number().int().nullable(),
  }),
  z.strictObject({
    kind: z.literal('facility code'),
    formatId: idSchema.nullable(),
    code: decimal(40),
    name,
    notes,
    orderedBy: person,
    orderedFrom: instant.nullable(),
    reserved: z.array(reservedSchema).max(50),
  }),
  z.strictObject({
    kind: z.literal('translation'),
    name,
    notes,
    definition: translationSchema,
    createdBy: person,
    createdAt: instant,
  }),
  z.strictObject({
    kind: z.literal('cardholder'),
    id: idSchema,
    name,
    department: person,
    organisation: person.optional(),
    is: z.string().max(40).optional(),
    contact: z.string().max(200).optional(),
    notes: notes.optional(),
  }),
  z.strictObject({ kind: z.literal('photograph'), holder: idSchema, ...photographSchema.shape }),
  z.strictObject({ kind: z.literal('mark'), ...markSchema.shape }),
  z.strictObject({
    kind: z.literal('box'),
    id: idSchema,
    name,
    formatId: idSchema,
    ...boxLabelSchema.shape,
    notes,
    blanks: z.boolean().default(false),
    enteredBy: person,
    enteredAt: instant,
  }),
  z.strictObject({
    kind: z.literal('card'),
    id: idSchema,
    formatId: idSchema,
    facility: decimal(40).nullable(),
    number: decimal(160),
    printed: z.string().max(80),
    bits: bitsSchema.nullable(),
    state: cardStateSchema,
    holder: idSchema.nullable(),
    /** The box that it came in; files from before there were boxes say nothing. */
    box: idSchema.nullable().optional(),
    validFrom: instant.nullable(),
    validTo: instant.nullable(),
    notes,
    createdAt: instant,
  }),
  z.strictObject({
    kind: z.literal('controller'),
    id: idSchema,
    name,
    device: deviceSchema,
    comparesFacility: z.boolean(),
    accepts: z.array(idSchema).max(200),
  }),
  /** Files from before doors were kept have none: each reader at a controller then has a door of its own. */
  z.strictObject({ kind: z.literal('door'), id: idSchema, name, controller: idSchema, byGroups: z.boolean() }),
  z.strictObject({
    kind: z.literal('reader'),
    id: idSchema,
    name,
    use: z.enum(['door', 'enrolment']),
    device: deviceSchema,
    controller: idSchema.nullable(),
    door: idSchema.nullable().optional(),
    way: waySchema.optional(),
  }),
  z.strictObject({ kind: z.literal('holidays'), holidays: z.array(holidaySchema).max(1000) }),
  z.strictObject({
    kind: z.literal('schedule'),
    id: idSchema,
    ...scheduleSchema.pick({ name: true, periods: true, onHolidays: true }).shape,
  }),
  z.strictObject({
    kind: z.literal('access group'),
    id: idSchema,
    ...accessGroupSchema.pick({ name: true, rights: true }).shape,
  }),
  /** The access groups that a cardholder is in, or that hang on a card. */
  z.strictObject({
    kind: z.literal('membership'),
    holder: idSchema.nullable(),
    card: idSchema.nullable(),
    groups: z.array(idSchema).min(1).max(200),
  }),
  z.strictObject({ kind: z.literal('assertion'), ...accessAssertionSchema.shape }),
  /** PINs are kept under a key of the installation, and go with nobody. */
  z.strictObject({ kind: z.literal('cardholder rules'), ...cardholderRulesSchema.omit({ revision: true }).shape }),
  /** A filter of the cards; what it names of box and group stands before it. */
  z.strictObject({
    kind: z.literal('saved filter'),
    name,
    filter: cardFilterSchema,
    savedBy: person,
    savedAt: instant,
  }),
  z.strictObject({
    kind: z.literal('case'),
    id: idSchema,
    name,
    specimens: z.array(caseSpecimenSchema).max(10_000),
    questions: questionsSchema,
    formatId: idSchema.nullable(),
    settledFor: settledForSchema.nullable().optional(),
    createdBy: person,
    createdAt: instant,
    changedAt: instant,
  }),
  /** A controller or a reader that was removed, which reads and events still name. */
  z.strictObject({
    kind: z.literal('former device'),
    id: idSchema,
    name,
    what: z.enum(['controller', 'reader']),
    removedAt: instant,
  }),
  z.strictObject({
    kind: z.literal('read'),
    id: idSchema,
    at: instant,
    bits: bitsSchema,
    source: z.enum(['reader', 'paste']),
    notation: z.string().max(60).nullable(),
    reader: idSchema.nullable(),
  }),
  z.strictObject({
    kind: z.literal('event'),
    at: instant,
    what: z.enum(['presented', 'loaded', 'load failed']),
    controller: idSchema.nullable(),
    reader: idSchema.nullable(),
    read: idSchema.nullable(),
    bits: bitsSchema.nullable(),
    outcome: z.enum(['opened', 'refused']).nullable(),
    stoppedAt: z.enum(STOPS).nullable(),
    formatId: idSchema.nullable(),
    reason: z.string().max(60_000),
    advice: z.string().max(60_000).nullable(),
    card: idSchema.nullable(),
    holder: person.nullable(),
  }),
  /** The record as it stood, to be read: what another installation wrote cannot be taken into the record of this one. */
  z.strictObject({
    kind: z.literal('change'),
    seq: z.number().int().nullable(),
    at: instant,
    operator: person,
    action: z.string(),
    subject: z.string(),
    before: z.unknown(),
    after: z.unknown(),
  }),
  z.strictObject({
    kind: z.literal('end'),
    /** How many lines go before this one. */
    lines: z.number().int().min(1),
    /** SHA-256 in hex, carried on line by line: of the digest before (empty at first), a line feed, and the line. */
    digest: z.string().regex(/^[0-9a-f]{64}$/),
  }),
]);
export type SiteLine = z.infer<typeof siteLineSchema>;
export type SiteLineOf<K extends SiteLine['kind']> = Extract<SiteLine, { kind: K }>;

/** The kinds in the order in which they stand. */
export const SITE_LINES: readonly SiteLine['kind'][] = siteLineSchema.options.map(
  (option) => option.shape.kind.value as SiteLine['kind'],
);

export const siteFileJsonSchema = () => z.toJSONSchema(siteLineSchema, { io: 'input', unrepresentable: 'any' });
