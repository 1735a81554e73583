/**
 * Fields of a data file: what stands at which of its bytes. A field's content is fixed, or made from what is known of the
 * card and whoever holds it, each known thing by its name: `number`, `facility`, `holder`, `department`, `valid to` …
 */
import { z } from 'zod';

const name = z.string().trim().min(1).max(80);
const order = z.enum(['big', 'little']).default('big');
const hexDigits = (most: number) =>
  z
    .string()
    .transform((text) => text.replace(/\s+/g, '').toUpperCase())
    .pipe(
      z
        .string()
        .max(2 * most)
        .regex(/^([0-9A-F]{2})*$/, 'Write two hex digits a byte.'),
    );

export const contentSchema = z.discriminatedUnion('is', [
  /** The same on every card; shorter than the field it is followed by zeros. */
  z.strictObject({ is: z.literal('fixed'), hex: hexDigits(8192) }),
  z.strictObject({
    is: z.literal('text'),
    of: name,
    charset: z.enum(['utf-8', 'ascii']).default('utf-8'),
    align: z.enum(['left', 'right']).default('left'),
    /** The byte that fills what the text leaves. */
    pad: hexDigits(1).default('00'),
  }),
  /** A whole number in packed decimal digits, or in binary; at the right end of the field. */
  z.strictObject({ is: z.literal('number'), of: name, as: z.enum(['binary', 'bcd']).default('binary'), order }),
  /** A day as YYYYMMDD, in packed digits (four bytes) or in characters (eight). */
  z.strictObject({ is: z.literal('day'), of: name, as: z.enum(['bcd', 'ascii']).default('bcd') }),
  /** The bits that the card's number has in its format, as a reader would deliver them. */
  z.strictObject({ is: z.literal('bits'), align: z.enum(['left', 'right']).default('left') }),
  /** What others count up on the card: written when its file is made, and left alone from then on. */
  z.strictObject({ is: z.literal('counter'), from: z.number().int().min(0).max(0xffffffff).default(0), order }),
  /**
   * A hand-back grant: a key of this card under another (AES key wrap, RFC 3394), 8 bytes longer than the key. Whoever has the
   * other reads it and can do with this card what its key can.
   */
  z.strictObject({ is: z.literal('wrapped'), key: name, under: name }),
  /** A CRC over other fields, in the order in which they are named. */
  z.strictObject({
    is: z.literal('check'),
    over: z.array(name).min(1).max(64),
    poly: hexDigits(8),
    init: hexDigits(8).default('00'),
    reflect: z.boolean().default(false),
    xorOut: hexDigits(8).default('00'),
    order,
  }),
]);
export type Content = z.output<typeof contentSchema>;

export const fieldSchema = z.strictObject({
  name,
  /** Its first byte, counted from 0; where none is given it begins where the one before it ends. */
  at: z.number().int().min(0).max(8191).optional(),
  /** In bytes. */
  length: z.number().int().min(1).max(8192),
  content: contentSchema,
});
export type Field = z.output<typeof fieldSchema>;

/** A field with its place: bytes `from` to before `to`. */
export interface Placed {
  field: Field;
  from: number;
  to: number;
}

/** Where each field stands. */
export function placed(fields: readonly Field[]): Placed[] {
  let next = 0;
  return fields.map((field) => {
    const from = field.at ?? next;
    next = from + field.length;
    return { field, from, to: next };
  });
}

export interface FieldProblem {
  code: string;
  message: string;
  /** The index of the field. */
  field: number;
}

/** What is wrong with the fields of a file of so many bytes. */
export function problemsOfFields(fields: readonly Field[], size: number): FieldProblem[] {
  const found: FieldProblem[] = [];
  const places = placed(fields);
  for (const [i, { field, from, to }] of places.entries()) {
    const add = (code: string, message: string) => void found.push({ code, message, field: i });
    if (to > size) add('over', `"${field.name}" ends at byte ${to}, and the file has ${size}.`);
    const before = places.slice(0, i);
    if (before.some((other) => other.field.name === field.name))
      add('doubled', `There are two fields "${field.name}".`);
    const under = before.find((other) => other.from < to && from < other.to);
    if (under) add('overlap', `"${field.name}" lies over "${under.field.name}".`);
    for (const [code, message] of ofContent(field, fields.slice(0, i))) add(code, message);
  }
  return found;
}

function* ofContent({ content, length, name }: Field, before: readonly Field[]): Generator<[string, string]> {
  if (content.is === 'fixed' && content.hex.length / 2 > length)
    yield ['too-long', `"${name}" has ${content.hex.length / 2} fixed bytes in ${length}.`];
  if (content.is === 'day' && length !== (content.as === 'bcd' ? 4 : 8))
    yield ['day-length', `A day takes ${content.as === 'bcd' ? 4 : 8} bytes, and "${name}" has ${length}.`];
  if (content.is === 'counter' && content.from >= 2 ** (8 * length))
    yield ['too-long', `"${name}" begins at ${content.from}, which ${length} bytes do not hold.`];
  if (content.is === 'wrapped' && length !== 24 && length !== 32)
    yield ['wrapped-length', `A wrapped key takes 24 bytes, or 32 of three-key triple DES; "${name}" has ${length}.`];
  if (content.is !== 'check') return;
  if (content.poly.length === 0 || content.poly.length / 2 !== length)
    yield [
      'check-length',
      `The polynomial of "${name}" has ${content.poly.length / 2} bytes, and the field ${length}.`,
    ];
  for (const other of content.over)
    if (before.find((field) => field.name === other)?.content.is === 'counter')
      yield ['check-counter', `"${name}" is over the counter "${other}", and would be wrong when that has moved.`];
    else if (!before.some((field) => field.name === other))
      yield ['check-over', `"${name}" is over "${other}", which does not stand before it.`];
}

/** What every byte of a file belongs to: the index of a field, `free`, or `over` past its end. */
export function byteMap(fields: readonly Field[], size: number): (number | 'free' | 'over')[] {
  const places = placed(fields);
  const end = Math.max(size, ...places.map(({ to }) => to));
  const map: (number | 'free' | 'over')[] = Array.from({ length: end }, (_, byte) => (byte < size ? 'free' : 'over'));
  for (const [i, { from, to }] of places.entries())
    for (let byte = from; byte < Math.min(to, size); byte++) map[byte] = i;
  return map;
}
