/**
 * Exchange: sets of formats as JSON, as rows of spans (for CSV) and as layout lines, in and out. Reading names every
 * problem by row and field and gives what could be read; whoever imports decides whether that is enough.
 */
import { z } from 'zod';
import { type Failure, failureOf } from '../failure/index.ts';
import { FORMAT_SCHEMA, type Format, formatSchema, isLabel, type Layout, labelOf, type Span } from './definition.ts';
import { parseLayoutLine, printLayoutLine, printMethod } from './layoutLine.ts';
import { printInWords } from './printed.ts';
import { problemsOf } from './problems.ts';
import { positionsOf } from './range.ts';

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

/** Reading a file stops at this many problems, and at this many formats: nobody reads more, and each costs time. */
export const MOST_PROBLEMS = 1000;
export const MOST_FORMATS = 10_000;
/** The most lines or rows of a file that are looked at. */
export const MOST_ROWS = 200_000;

export interface ReadIn {
  formats: { format: Format; row: number }[];
  problems: Failure[];
}

/** Whether reading goes on; where it does not, the last problem says so. */
function goesOn({ formats, problems }: ReadIn, row: number): boolean {
  const stop = (what: string, hint: string) => {
    problems.push({ code: 'file-long', message: `Reading stopped at row ${row}: ${what}.`, where: { row }, hint });
    return false;
  };
  if (problems.length >= MOST_PROBLEMS)
    return stop(
      `${MOST_PROBLEMS} problems were found before it`,
      'Put the first ones right; is it the right kind of file?',
    );
  if (formats.length >= MOST_FORMATS) return stop(`a file holds at most ${MOST_FORMATS} formats`, 'Divide the file.');
  return row <= MOST_ROWS || stop(`a file has at most ${MOST_ROWS} rows`, 'Divide the file.');
}

/** What a layout is called when nobody named it: its length and the widths of facility code and number. */
export function structuralId(layout: Layout): string {
  const width = (role: string) => {
    const span = layout.spans.find((s) => s.role === role);
    return span ? positionsOf(span.at).length : 0;
  };
  const { reverseBytes, reverseBits, invert } = layout.arrives;
  const arrives = `${reverseBytes ? 'r' : ''}${reverseBits ? 'b' : ''}${invert ? 'i' : ''}`;
  return `${layout.bits}${arrives}-${width('facility')}-${width('number')}`;
}

const structuralName = (layout: Layout): string => {
  const widths = layout.spans.flatMap((span) =>
    labelOf(span) === undefined ? [] : [`${labelOf(span)} ${positionsOf(span.at).length}`],
  );
  return `${layout.bits} bits, ${widths.join(' + ') || 'no value'}`.slice(0, 120);
};

/** A file while it is read; `rows` says where each id stood first. */
interface Reading extends ReadIn {
  rows: Map<string, number>;
}

const reading = (): Reading => ({ formats: [], problems: [], rows: new Map() });
const readIn = ({ formats, problems }: Reading): ReadIn => ({ formats, problems });

/** Checks a format that was read and puts it to the others, or its problems to the problems. */
function settle(into: Reading, format: Format, row: number): void {
  const errors = problemsOf(format).filter((problem) => problem.severity === 'error');
  for (const { code, message, where, hint } of errors)
    into.problems.push({
      code,
      message: `${format.id}: ${message}`,
      where: { row, field: where?.field, positions: where?.positions },
      hint,
    });
  const twin = into.rows.get(format.id);
  if (twin !== undefined)
    into.problems.push({
      code: 'format-twice',
      message: `"${format.id}" stands in row ${twin} already.`,
      where: { row, field: 'id' },
      hint: 'Give it another id, or take one of them out.',
    });
  else if (errors.length === 0) {
    into.formats.push({ format, row });
    into.rows.set(format.id, row);
  }
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

// Rows of spans

const COLUMNS = [
  'format',
  'name',
  'bits',
  'arrives',
  'format_facility',
  'print',
  'role',
  'at',
  'label',
  'written',
  'covers',
  'detail',
  'notes',
  'source',
] as const;
type Column = (typeof COLUMNS)[number];
const FREE_TEXT: ReadonlySet<Column> = new Set(['name', 'label', 'notes', 'source']);

/** What every row of a format says the same of. */
const OF_WHOLE = ['bits', 'arrives', 'format_facility', 'print'] as const;
const told = (cell: string): string => cell || 'nothing';

/** One row a span, the heading first; `detail` holds a parity's sense, fixed bits or a check's method. */
export function spanRows(formats: readonly Format[]): string[][] {
  const rows = formats.flatMap((format) => {
    const head = printLayoutLine({ ...format, spans: [], facility: undefined, print: undefined });
    const own: Partial<Record<Column, string>> = {
      format: format.id,
      name: format.name,
      bits: String(format.bits),
      arrives: head.replace(/\d+/, ''),
      format_facility: format.facility ?? '',
      print: format.print ? printInWords(format.print) : '',
      notes: format.notes ?? '',
      source: format.source ?? '',
    };
    const spans: (Span | undefined)[] = format.spans.length > 0 ? format.spans : [undefined];
    return spans.map((span) => {
      const cells = { ...own, ...(span && spanCells(span)) };
      return COLUMNS.map((column) => cells[column] ?? '');
    });
  });
  return [[...COLUMNS], ...rows];
}

function spanCells(span: Span): Partial<Record<Column, string>> {
  return {
    role: span.role,
    at: span.at,
    ...(span.role === 'value' && { label: span.label }),
    ...('written' in span && span.written && { written: span.written }),
    ...('covers' in span && { covers: span.covers }),
    ...(span.role === 'parity' && { detail: span.sense }),
    ...(span.role === 'fixed' && { detail: span.bits }),
    ...(span.role === 'check' && { detail: printMethod(span.method) }),
  };
}

/** Formats from rows of spans with a heading; rows of one format stand together or apart. Rows count from 1, the heading. */
export function readSpanRows(rows: readonly (readonly string[])[]): ReadIn {
  const result = reading();
  const heading = (rows[0] ?? []).map((cell) => cell.trim().toLowerCase());
  const missing = (['format', 'bits', 'role', 'at'] as const).filter((column) => !heading.includes(column));
  if (missing.length > 0) {
    result.problems.push({
      code: 'file-kind',
      message: `The heading has no column ${missing.join(', ')}: this is no list of spans.`,
      where: { row: 1 },
      hint: `The columns are ${COLUMNS.join(', ')}.`,
    });
    return readIn(result);
  }
  const groups = new Map<string, { row: number; cells: (column: Column) => string; spans: Span[]; sound: boolean }>();
  for (const [i, row] of rows.slice(1).entries()) {
    if (!goesOn(result, i + 2)) break;
    if (row.every((cell) => cell.trim() === '')) continue;
    // Free text keeps its blanks, as a label may be one; everything else is read without those around it.
    const cells = (column: Column) => {
      const cell = row[heading.indexOf(column)] ?? '';
      return FREE_TEXT.has(column) ? cell : cell.trim();
    };
    const id = cells('format');
    const group = groups.get(id) ?? { row: i + 2, cells, spans: [], sound: true };
    groups.set(id, group);
    const problem = (field: string, message: string) => {
      group.sound = false;
      result.problems.push({ code: 'span-row', message, where: { row: i + 2, field } });
    };
    for (const column of OF_WHOLE)
      if (cells(column) !== group.cells(column))
        problem(
          column,
          `"${id}" has ${column} ${told(group.cells(column))} in row ${group.row}, ${told(cells(column))} here.`,
        );
    if (cells('role') === '') continue;
    try {
      group.spans.push(parseLayoutLine(`512 | ${spanText(cells)}`).spans[0]!);
    } catch (error) {
      problem(fieldAtFault(cells), failureOf(error).message);
    }
  }
  for (const [id, { row, cells, spans, sound }] of groups) {
    if (result.problems.length >= MOST_PROBLEMS) break;
    if (sound) assemble(result, id, row, cells, spans);
  }
  return readIn(result);
}

function spanText(cells: (column: Column) => string): string {
  const at = cells('at');
  const written = cells('written');
  switch (cells('role')) {
    case 'parity':
      return `${at} ${cells('detail') || 'parity'} ${cells('covers')}`;
    case 'check':
      return `${at} check ${cells('detail')} ${cells('covers')}`;
    case 'fixed':
      return `${at} fixed ${cells('detail')}`;
    case 'value':
      return `${at} value ${JSON.stringify(cells('label'))} ${written}`;
    default:
      return `${at} ${cells('role')} ${written}`;
  }
}

/** Which cell a row's failure most likely lies in. */
function fieldAtFault(cells: (column: Column) => string): Column {
  if (!/^\d[\d\s,by to-]*$/.test(cells('at'))) return 'at';
  const role = cells('role');
  if (!['facility', 'number', 'issue', 'value', 'fixed', 'parity', 'check'].includes(role)) return 'role';
  if (role === 'value' && !isLabel(cells('label'))) return 'label';
  if (role === 'parity' && !/^(even|odd)$/.test(cells('detail'))) return 'detail';
  if ((role === 'parity' || role === 'check') && !/^\d[\d\s,by to-]*$/.test(cells('covers'))) return 'covers';
  return role === 'fixed' || role === 'check' ? 'detail' : 'written';
}

function assemble(result: Reading, id: string, row: number, cells: (column: Column) => string, spans: Span[]): void {
  const optional = (column: Column) => cells(column) || undefined;
  try {
    const print = optional('print');
    const head = parseLayoutLine(`${cells('bits')}${cells('arrives')}${print ? ` | print = ${print}` : ''}`);
    const parsed = formatSchema.safeParse({
      schema: FORMAT_SCHEMA,
      id: id || structuralId({ ...head, spans }),
      name: cells('name') || structuralName({ ...head, spans }),
      ...head,
      spans,
      facility: optional('format_facility'),
      notes: optional('notes'),
      source: optional('source'),
    });
    if (parsed.success) settle(result, dropUndefined(parsed.data), row);
    for (const issue of parsed.error?.issues ?? [])
      result.problems.push({
        code: 'format-field',
        message: issue.message,
        where: { row, field: issue.path.join('.') },
      });
  } catch (error) {
    result.problems.push({ ...failureOf(error), where: { row, field: 'bits' } });
  }
}

/** Without the keys that hold nothing, so that what went out comes back equal. */
function dropUndefined<T extends object>(value: T): T {
  return Object.fromEntries(Object.entries(value).filter(([, v]) => v !== undefined)) as T;
}
