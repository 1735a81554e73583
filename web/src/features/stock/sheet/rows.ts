/** A sheet as cards: what each column is, by its heading, and each row as it is sent. */
import type { SheetReview, SheetRow } from '@rawbits/api';
import { CARD_STATES, type CardState } from '@rawbits/core/access';
import { beginningOf, endOf } from '../../../platform/words/siteDays.ts';

export const COLUMNS = [
  'number',
  'facility code',
  'printed',
  'state',
  'holder',
  'department',
  'valid from',
  'valid through',
  'notes',
] as const;
export type Column = (typeof COLUMNS)[number];
/** What each column of a sheet is; null for one that is left out. */
export type Mapping = (Column | null)[];

/** Words that people head such columns with (common practice, no source). */
const HEADINGS: [Column, RegExp][] = [
  ['facility code', /facility|site code|^fc$|^code$/],
  ['valid from', /from|start|begin/],
  ['valid through', /through|until|till|expir|^to$|valid to|end/],
  ['printed', /print|label|engraved/],
  ['department', /dep(ar)?t|team|group|unit/],
  ['holder', /holder|name|person|held|owner/],
  ['state', /state|status/],
  ['notes', /note|comment|remark/],
  ['number', /number|^no\.?$|^nr\.?$|^id$|card/],
];

export interface Sheet {
  headings: string[];
  rows: string[][];
  /** The number of the first row in the file, from 1. */
  firstRow: number;
}

/** Cells as a sheet: its first row is a heading where no cell of it is a number. Empty rows are left out at its end. */
export function sheetOf(cells: string[][]): Sheet {
  const rows = [...cells];
  while (rows.length > 0 && rows.at(-1)!.every((cell) => cell.trim() === '')) rows.pop();
  const [head = []] = rows;
  const hasHeading = head.some((cell) => cell.trim() !== '') && head.every((cell) => !/^\s*\d+\s*$/.test(cell));
  const width = Math.max(0, ...rows.map((row) => row.length));
  const headings = Array.from({ length: width }, (_, i) => (hasHeading ? (head[i] ?? '').trim() : ''));
  return { headings, rows: hasHeading ? rows.slice(1) : rows, firstRow: hasHeading ? 2 : 1 };
}

/** What the columns most likely are: by their headings; without any, the first one with numbers is the number. */
export function guessed({ headings, rows }: Sheet): Mapping {
  const taken = new Set<Column>();
  const mapping: Mapping = headings.map((heading) => {
    const found = HEADINGS.find(([column, words]) => !taken.has(column) && words.test(heading.toLowerCase()))?.[0];
    if (heading === '' || !found) return null;
    taken.add(found);
    return found;
  });
  if (taken.has('number')) return mapping;
  const free = mapping.findIndex(
    (column, i) => column === null && rows.slice(0, 20).every((row) => /^\s*\d+\s*$/.test(row[i] ?? '')),
  );
  return free < 0 ? mapping : mapping.with(free, 'number');
}

export interface Told {
  row: number;
  message: string;
  hint?: string;
}

/** `2026-06-30` or `30.06.2026`; undefined where it is neither, empty for none. */
function dayFrom(text: string): string | undefined {
  const iso = /^(\d{4}-\d{2}-\d{2})(?:[T ]\d{2}:\d{2}.*)?$/.exec(text)?.[1];
  const [, d, m, y] = /^(\d{1,2})\.(\d{1,2})\.(\d{4})$/.exec(text) ?? [];
  const day = text === '' ? '' : (iso ?? (y && `${y}-${m!.padStart(2, '0')}-${d!.padStart(2, '0')}`));
  if (day === undefined || day === '') return day;
  const at = new Date(`${day}T00:00:00Z`);
  return Number.isNaN(at.getTime()) || at.toISOString().slice(0, 10) !== day ? undefined : day;
}

/** The rows as they are sent, and those of which something cannot even be read. */
export function cardsIn(
  sheet: Sheet,
  mapping: Mapping,
  facility: string,
  zone: string,
): { rows: SheetRow[]; bad: Told[] } {
  const [rows, bad]: [SheetRow[], Told[]] = [[], []];
  for (const [i, cells] of sheet.rows.entries()) {
    if (cells.every((cell) => cell.trim() === '')) continue;
    const row = sheet.firstRow + i;
    const of = (column: Column): string => {
      const at = mapping.indexOf(column);
      return at < 0 ? '' : (cells[at] ?? '').trim();
    };
    const state = of('state').toLowerCase();
    const [from, to] = [dayFrom(of('valid from')), dayFrom(of('valid through'))];
    const long = COLUMNS.find((column) => of(column).length > (column === 'notes' ? 2000 : 80));
    if (/^\d+[.,]\d+e\+?\d+$/i.test(of('number')))
      bad.push({
        row,
        message: `${of('number')} was rounded by the spreadsheet: digits are lost.`,
        hint: 'Format the column as text, and export it again.',
      });
    else if (state !== '' && !(CARD_STATES as readonly string[]).includes(state))
      bad.push({ row, message: `"${of('state')}" is no state.`, hint: `Write ${CARD_STATES.join(', ')}.` });
    else if (from === undefined || to === undefined)
      bad.push({
        row,
        message: `"${from === undefined ? of('valid from') : of('valid through')}" is no day.`,
        hint: 'Write it as 2026-06-30 or 30.06.2026.',
      });
    else if (long !== undefined) bad.push({ row, message: `Its ${long} is too long.`, hint: 'Shorten it.' });
    else
      rows.push({
        row,
        facility: of('facility code') || facility,
        number: of('number').replace(/^0+(?=\d)/, ''),
        printed: of('printed'),
        ...(state !== '' && { state: state as CardState }),
        holder: of('holder'),
        department: of('department'),
        validFrom: beginningOf(from, zone),
        validTo: endOf(to, zone),
        notes: of('notes'),
      });
  }
  return { rows, bad };
}

/** The rows that were refused, as they stand in the sheet, with the reason behind them: to be mended and sent again. */
export function refusedRows(sheet: Sheet, bad: readonly Told[]): string[][] {
  const width = sheet.headings.length;
  const headings = sheet.headings.map((heading, i) => heading || `column ${i + 1}`);
  return [
    [...headings, 'row', 'what is wrong'],
    ...bad.map(({ row, message, hint }) => {
      const cells = sheet.rows[row - sheet.firstRow] ?? [];
      return [
        ...Array.from({ length: width }, (_, i) => cells[i] ?? ''),
        String(row),
        [message, hint].filter(Boolean).join(' '),
      ];
    }),
  ];
}

export const allBad = (own: readonly Told[], review: SheetReview): Told[] =>
  [...own, ...review.bad].sort((a, b) => a.row - b.row);
