/**
 * Exchange: sets of formats as JSON and as layout lines, in and out; rows of spans, for CSV, stand in `spanRows`. Reading names
 * every problem by row and field and gives what could be read; whoever imports decides whether that is enough.
 */
import { z } from 'zod';
import { failureOf } from '../failure/index.ts';
import { FORMAT_SCHEMA, type Format, formatSchema } from './definition.ts';
import { parseLayoutLine, printLayoutLine } from './layoutLine.ts';
import {
  goesOn,
  MOST_ROWS,
  type ReadIn,
  type Reading,
  readIn,
  reading,
  settle,
  structuralId,
  structuralName,
} from './readIn.ts';

export const FORMATS_SCHEMA = 'rawbits/formats@1';
/** A set of formats in one file. */
export const formatSetSchema = z.strictObject({ schema: z.literal(FORMATS_SCHEMA), formats: z.array(formatSchema) });

/** The published JSON Schema of a set of formats. */
export function formatSetJsonSchema(): Record<string, unknown> {
  return {
    $id: 'https://rawbits.example/schema/formats-1.json',
    title: 'A set of Raw Bits formats, version 1',
    ...(z.toJSONSchema(formatSetSchema, { io: 'input' }) as Record<string, unknown>),
  };
}

// JSON

export function writeJson(formats: readonly Format[]): string {
  return `${JSON.stringify({ schema: FORMATS_SCHEMA, formats }, null, 2)}\n`;
}

/** A set, a list, or one format as JSON; rows count the formats of the file from 1. */
export function readJson(text: string): ReadIn {
  const result = reading();
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    result.problems.push({
      code: 'json',
      message: `This is not JSON: ${(error as Error).message}.`,
      where: { row: 1 },
    });
    return readIn(result);
  }
  const set = value as { schema?: unknown; formats?: unknown };
  const list = Array.isArray(value) ? value : Array.isArray(set?.formats) ? set.formats : [value];
  const kind = typeof set?.schema === 'string' ? set.schema : undefined;
  if (!Array.isArray(value) && kind !== FORMATS_SCHEMA && kind !== FORMAT_SCHEMA) {
    result.problems.push({
      code: 'file-kind',
      message: kind ? `This is a file of another kind: ${kind}.` : 'This JSON is no format and no set of formats.',
      where: { row: 1, field: 'schema' },
      hint: `Its "schema" must be ${FORMATS_SCHEMA} or ${FORMAT_SCHEMA}.`,
    });
    return readIn(result);
  }
  for (const [index, item] of list.entries()) {
    if (!goesOn(result, index + 1)) break;
    takeFormat(result, item, index + 1);
  }
  return readIn(result);
}

/** Takes what should be a format, or says what of it is not. */
function takeFormat(result: Reading, item: unknown, row: number): void {
  const parsed = formatSchema.safeParse(item);
  if (parsed.success) settle(result, parsed.data, row);
  else
    for (const issue of parsed.error.issues)
      result.problems.push({
        code: 'format-field',
        message: issue.message,
        where: { row, field: issue.path.join('.') },
      });
}

// Layout lines

/** One format a line: id, name and layout line, separated by tabs. */
export function writeLines(formats: readonly Format[]): string {
  const clean = (text: string) => text.replace(/[\t\r\n]/g, ' ');
  return formats.map((f) => `${f.id}\t${clean(f.name)}\t${printLayoutLine(f)}\n`).join('');
}

/** Lines of id, name and layout line separated by tabs, or of a layout line alone; empty lines and # lines are passed. */
export function readLines(text: string): ReadIn {
  const result = reading();
  // One row more than is looked at, so that what is past the end is told.
  for (const [index, line] of text.split(/\r?\n/, MOST_ROWS + 1).entries()) {
    if (!goesOn(result, index + 1)) break;
    if (line.trim() === '' || line.startsWith('#')) continue;
    takeLine(result, line, index + 1);
  }
  return readIn(result);
}

function takeLine(result: Reading, line: string, row: number): void {
  const cells = line.split('\t');
  const body = cells.at(-1)!;
  const offset = line.length - body.length;
  try {
    const layout = parseLayoutLine(body);
    const id = cells.length > 1 ? cells[0]!.trim() : structuralId(layout);
    const name = cells.length > 2 ? cells[1]!.trim() : structuralName(layout);
    takeFormat(result, { schema: FORMAT_SCHEMA, id, name, ...layout }, row);
  } catch (error) {
    const failure = failureOf(error);
    const column = failure.where?.column === undefined ? undefined : failure.where.column + offset;
    result.problems.push({ ...failure, where: { row, field: 'layout', column } });
  }
}
