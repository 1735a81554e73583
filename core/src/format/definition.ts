/**
 * A format as data: the schema that its JSON, the server, the web and every file share. Design §4.
 * Positions are 1-based from the first bit of the format's own order (after the transformation in `arrives` is undone).
 */
import { z } from 'zod';
import { normalRange } from './range.ts';

/** A list of positions in its canonical spelling; other spellings are accepted and made canonical. */
export const rangeSchema = z
  .string()
  .max(4000)
  .transform((text, context) => {
    try {
      return normalRange(text);
    } catch (error) {
      context.addIssue({ code: 'custom', message: (error as Error).message });
      return z.NEVER;
    }
  });

export const writtenSchema = z.enum(['bcd', 'bcd-low', 'char5']);
/**
 * How a value is written when not in plain binary: decimal digits of four bits, the most significant digit first or (`bcd-low`)
 * last, each digit's most significant bit first; or 5-bit characters (four data bits, least significant first, odd parity).
 */
export type Written = z.infer<typeof writtenSchema>;
/** How many bits a decimal digit takes. */
export const digitWidth = (written: Written): number => (written === 'char5' ? 5 : 4);

/** A label of 1 to 80 characters that cannot be mistaken for another key of `values` or `masks`. */
export const isLabel = (label: string): boolean =>
  label.length >= 1 && label.length <= 80 && label !== '__proto__' && !/^(parity|check)@/.test(label);
const labelSchema = z
  .string()
  .refine(isLabel, 'A label has 1 to 80 characters and does not begin with parity@ or check@');
const hexSchema = z.string().regex(/^[0-9A-F]{1,16}$/, 'Write it in hex, upper case, at most 16 digits.');

export const checkMethodSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('xor'), width: z.number().int().min(1).max(64) }),
  z.strictObject({ kind: z.literal('lrc5') }),
  z.strictObject({
    kind: z.literal('sum'),
    width: z.number().int().min(1).max(32),
    /** Its two's complement. */
    negated: z.boolean().default(false),
  }),
  z.strictObject({ kind: z.literal('mod10') }),
  z.strictObject({
    kind: z.literal('crc'),
    width: z.number().int().min(1).max(64),
    poly: hexSchema,
    init: hexSchema.default('0'),
    reflectIn: z.boolean().default(false),
    reflectOut: z.boolean().default(false),
    xorOut: hexSchema.default('0'),
  }),
]);
export type CheckMethod = z.infer<typeof checkMethodSchema>;

/** How many bits a check has. */
export const checkWidth = (method: CheckMethod): number =>
  method.kind === 'lrc5' ? 5 : method.kind === 'mod10' ? 4 : method.width;

/** What it covers comes in whole groups of so many bits. */
export const checkGroup = (method: CheckMethod): number =>
  method.kind === 'crc' ? (method.reflectIn ? 8 : 1) : checkWidth(method);

/** Whether each bit of it is an exclusive or of covered bits and a constant. */
export const isLinear = (method: CheckMethod): boolean => method.kind !== 'sum' && method.kind !== 'mod10';

const written = writtenSchema.optional();

export const spanSchema = z.discriminatedUnion('role', [
  z.strictObject({ role: z.literal('facility'), at: rangeSchema, written }),
  z.strictObject({ role: z.literal('number'), at: rangeSchema, written }),
  z.strictObject({ role: z.literal('issue'), at: rangeSchema, written }),
  z.strictObject({ role: z.literal('value'), label: labelSchema, at: rangeSchema, written }),
  z.strictObject({ role: z.literal('fixed'), at: rangeSchema, bits: z.string().regex(/^[01]{1,512}$/) }),
  z.strictObject({
    role: z.literal('parity'),
    at: rangeSchema,
    sense: z.enum(['even', 'odd']),
    covers: rangeSchema,
  }),
  z.strictObject({ role: z.literal('check'), at: rangeSchema, method: checkMethodSchema, covers: rangeSchema }),
]);
export type Span = z.infer<typeof spanSchema>;

export const arrivesSchema = z.strictObject({
  reverseBytes: z.boolean(),
  reverseBits: z.boolean(),
  invert: z.boolean(),
});
/** How the bits arrive, against the format's own order. The three do not depend on their order. */
export type Arrives = z.infer<typeof arrivesSchema>;
export const AS_SENT: Arrives = { reverseBytes: false, reverseBits: false, invert: false };

/** What makes a format work: its bits, without name or notes. The layout line prints exactly this. */
export const layoutSchema = z.strictObject({
  bits: z.number().int().min(1).max(512),
  spans: z.array(spanSchema).max(512),
  arrives: arrivesSchema.default(AS_SENT),
  /** A facility code that no bit carries, as a decimal. */
  facility: z
    .string()
    .regex(/^\d{1,40}$/)
    .optional(),
  /** What is printed on a card of it, where that is not its number. */
  print: z
    .strictObject({
      /** Facility code and number in one decimal, the number in its last five places. */
      joined: z.boolean(),
      /** A decimal, perhaps negative, that is added; 0 for none. */
      add: z.string().regex(/^(?:0|-?[1-9]\d{0,39})$/),
    })
    .optional(),
});
export type Layout = z.infer<typeof layoutSchema>;

export const FORMAT_SCHEMA = 'rawbits/format@1';

export const formatSchema = layoutSchema.extend({
  schema: z.literal(FORMAT_SCHEMA),
  id: z.string().regex(/^[a-z0-9][a-z0-9-]{0,39}$/, 'Use lower-case letters, digits and hyphens, at most 40.'),
  name: z.string().min(1).max(120),
  notes: z.string().max(4000).optional(),
  source: z.string().max(400).optional(),
});
/** A named format: a layout with its id, name, notes and source. */
export type Format = z.infer<typeof formatSchema>;

/** The label under which a span's value goes in `values` and `masks`: its role, or a value's own label. */
export function labelOf(span: Span): string | undefined {
  if (span.role === 'value') return span.label;
  return span.role === 'facility' || span.role === 'number' || span.role === 'issue' ? span.role : undefined;
}

/** A short name of a span for people: `number`, `"agency"`, `parity bit 26`. */
export function nameOf(span: Span): string {
  if (span.role === 'value') return `"${span.label}"`;
  return labelOf(span) ?? `${span.role === 'parity' ? 'parity bit' : span.role} ${span.at}`;
}

/** The published JSON Schema (draft 2020-12) of `rawbits/format@1`, as an editor or another program wants it. */
export function formatJsonSchema(): Record<string, unknown> {
  return {
    $id: 'https://rawbits.example/schema/format-1.json',
    title: 'Raw Bits format, version 1',
    ...(z.toJSONSchema(formatSchema, { io: 'input' }) as Record<string, unknown>),
  };
}
