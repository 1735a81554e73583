/** Formats as rows of their spans, for CSV: one row a span, in and out. */
import { failureOf } from '../failure/index.ts';
import { FORMAT_SCHEMA, type Format, formatSchema, isLabel, type Span } from './definition.ts';
import { parseLayoutLine, printLayoutLine, printMethod } from './layoutLine.ts';
import { printInWords } from './printed.ts';
import {
  goesOn,
  MOST_PROBLEMS,
  type ReadIn,
  type Reading,
  readIn,
  reading,
  settle,
  structuralId,
  structuralName,
} from './readIn.ts';

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
