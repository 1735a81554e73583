/** What each command does with one parsed line. Positions 1-based, numbers as decimal strings. */
import { readFileSync } from 'node:fs';
import { Bits } from '@rawbits/core/bits';
import { CATALOGUE, catalogued } from '@rawbits/core/catalogue';
import { encode, type FitOf, fitsOf } from '@rawbits/core/codec';
import { fail } from '@rawbits/core/failure';
import {
  FORMAT_SCHEMA,
  type Format,
  formatSchema,
  masksOf,
  parseLayoutLine,
  printedOf,
  printLayoutLine,
  problemsOf,
  readJson,
  settingsOf,
  structuralId,
} from '@rawbits/core/format';
import { type Finding, identify, specimenSchema } from '@rawbits/core/identify';
import { explain } from '@rawbits/core/translate';
import { z } from 'zod';
import { chipConversation } from './chipCommand.ts';
import { keyLine } from './keyCommand.ts';
import { planLine } from './planCommand.ts';
import { readLine } from './readCommand.ts';

export type Command = (input: unknown) => unknown;
/** Makes what answers the lines of one run: most answer each line by itself, `chip` remembers its card. */
export type Conversation = () => Command;

const decodeInput = z
  .strictObject({
    bits: z.string().optional(),
    hex: z.string().optional(),
    length: z.number().int().optional(),
    justified: z.enum(['left', 'right']).default('right'),
    formats: z.array(z.string()).optional(),
    layout: z.string().optional(),
    /** A file of formats, as Raw Bits writes it. */
    file: z.string().optional(),
  })
  .refine((input) => (input.bits === undefined) !== (input.hex === undefined), 'Give either "bits" or "hex"');

/** The formats that a line names: of the library, by its layout line, or in a file; undefined where it names none. */
function namedFormats({ formats, layout, file }: z.infer<typeof decodeInput>): Format[] | undefined {
  if (formats === undefined && layout === undefined && file === undefined) return undefined;
  return [
    ...(formats ?? []).map((id, i) => formatOf(id, `formats.${i}`)),
    ...(layout === undefined ? [] : [fromLine(layout)]),
    ...(file === undefined ? [] : formatsIn(file)),
  ];
}

function fromLine(line: string): Format {
  const layout = parseLayoutLine(line);
  return { schema: FORMAT_SCHEMA, id: structuralId(layout), name: line.slice(0, 80), ...layout };
}

function formatsIn(file: string): Format[] {
  let text: string;
  try {
    text = readFileSync(file, 'utf8');
  } catch {
    return fail('file-unreadable', `${file} cannot be read.`, { field: 'file' }, 'Name a file that is there.');
  }
  const { formats, problems } = readJson(text);
  const [first] = problems;
  if (first) fail(first.code, `${file}: ${first.message}`, { field: 'file' }, first.hint);
  return formats.map(({ format }) => format);
}

function formatOf(id: string, field: string): Format {
  return (
    catalogued(id) ??
    fail(
      'format-unknown',
      `There is no format "${id}".`,
      { field },
      `Known are ${CATALOGUE.map((f) => f.id).join(', ')}.`,
    )
  );
}

const decodeLine: Command = (raw) => {
  const input = decodeInput.parse(raw);
  const { bits: binary, hex, length, justified } = input;
  if (binary !== undefined && length !== undefined && binary.length !== length)
    fail('binary-length', `There are ${binary.length} bits, not ${length}.`, { field: 'length' });
  const bits =
    binary !== undefined ? Bits.fromBinary(binary) : Bits.fromHex(hex!, length ?? hex!.length * 4, justified);
  const named = namedFormats(input);
  const fits = fitsOf(bits, named ?? CATALOGUE, named !== undefined);
  return { length: bits.length, fits: fits.map(plainFit) };
};

function plainFit({ format, fit, reason, values, parity, checks }: FitOf): unknown {
  const printed = format.print && printedOf(format, values);
  return {
    format: format.id,
    fit,
    values,
    ...(printed !== undefined && { print: printed }),
    parity,
    ...(checks.length > 0 && { checks }),
    reason,
  };
}

const encodeInput = z
  .strictObject({
    format: z.string().optional(),
    layout: z.string().optional(),
    values: z.record(z.string(), z.string()),
  })
  .refine((input) => (input.format === undefined) !== (input.layout === undefined), 'Give either "format" or "layout"');

const encodeLine: Command = (raw) => {
  const { format, layout, values } = encodeInput.parse(raw);
  const bits = encode(layout === undefined ? formatOf(format!, 'format') : parseLayoutLine(layout), values);
  return { bits: bits.toBinary(), hex: bits.toHex('right'), length: bits.length };
};

const formatInput = z
  .strictObject({
    layout: z.string().optional(),
    format: formatSchema.partial({ schema: true, id: true, name: true }).optional(),
    /** A number that the controller adds; only the settings sheet shows it. */
    offset: z
      .string()
      .regex(/^-?\d{1,40}$/)
      .default('0'),
  })
  .refine((input) => (input.format === undefined) !== (input.layout === undefined), 'Give either "format" or "layout"');

const formatLine: Command = (raw) => {
  const input = formatInput.parse(raw);
  const layout = input.layout === undefined ? input.format! : parseLayoutLine(input.layout);
  const line = printLayoutLine(layout);
  const format: Format = { schema: FORMAT_SCHEMA, id: 'unnamed', name: 'Unnamed format', ...layout };
  const problems = problemsOf(layout);
  const sound = problems.every((problem) => problem.severity !== 'error');
  const masks = sound ? Object.entries(masksOf(layout)).map(([label, mask]) => [label, mask.toBinary()]) : [];
  return {
    format,
    layout: line,
    problems,
    masks: Object.fromEntries(masks),
    settings: sound ? settingsOf(layout, { offset: BigInt(input.offset) }) : [],
  };
};

const translateInput = z.strictObject({
  pairs: z.array(z.strictObject({ a: z.string().max(4096), b: z.string().max(4096) })),
});

const translateLine: Command = (raw) => {
  const { explanations, more, cards, settle } = explain(translateInput.parse(raw).pairs);
  return { explanations, more, cards, settle: settle ?? null };
};

const printText = z.union([z.string(), z.number().int().nonnegative().transform(String)]);
const identifyInput = z.strictObject({
  specimens: z.array(
    specimenSchema.extend({
      printed: printText.optional(),
      prints: z.array(printText).optional(),
      facility: printText.optional(),
    }),
  ),
  predict: z.array(printText).max(10_000).default([]),
  formats: z.array(z.string()).optional(),
  /** The numbers that there are to choose from for the tie-breaker, or their range. */
  atHand: z.array(printText).optional(),
  range: z
    .union([
      z.strictObject({ from: printText, to: printText }),
      z.tuple([printText, printText]).transform(([from, to]) => ({ from, to })),
    ])
    .optional(),
  setAside: z.array(z.number().int().min(1)).optional(),
});

const identifyLine: Command = (raw) => {
  const { specimens, formats, range, ...rest } = identifyInput.parse(raw);
  const library = formats?.map((id, i) => formatOf(id, `formats.${i}`)) ?? CATALOGUE;
  return plainFinding(
    identify(specimens, {
      ...rest,
      library,
      until: true,
      ...(range && { range: { from: BigInt(range.from), to: BigInt(range.to) } }),
    }),
  );
};

/** The order in which a reader of the line looks for things. */
function plainFinding({
  length,
  checks,
  bits,
  layouts,
  known,
  predictions,
  tieBreaker,
  suspects,
  range,
  ...rest
}: Finding): unknown {
  // Of the cards of the box those that are asked for stand among the predictions.
  const { cards: _cards, family = null, ...box } = range ?? { cards: [] };
  const boxed = { range: range && box, family };
  return { length, checks, ...boxed, bits, layouts, known, predictions, tieBreaker, suspects, ...rest };
}

export const commands: Record<string, Conversation> = {
  read: () => readLine,
  decode: () => decodeLine,
  encode: () => encodeLine,
  format: () => formatLine,
  translate: () => translateLine,
  identify: () => identifyLine,
  key: () => keyLine,
  plan: () => planLine,
  chip: chipConversation,
};
