/** A sheet as cards: what each column is, by its heading, and each row as it is sent. */
import type { SheetRow } from '@rawbits/api';
import { CARD_STATES, type CardState } from '@rawbits/core/access';
import { beginningOf, endOf } from '../../../platform/words/siteDays.ts';
import { guessedBy, type Headings, type Mapping, type Sheet, type Told } from './table.ts';

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
/** Words that people head such columns with (common practice, no source). */
const HEADINGS: Headings<Column> = [
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

/** What the columns most likely are: by their headings; without any, the first one with numbers is the number. */
export function guessed(sheet: Sheet): Mapping<Column> {
  const mapping = guessedBy(sheet, HEADINGS);
  if (mapping.includes('number')) return mapping;
  const free = mapping.findIndex(
    (column, i) => column === null && sheet.rows.slice(0, 20).every((row) => /^\s*\d+\s*$/.test(row[i] ?? '')),
  );
  return free < 0 ? mapping : mapping.with(free, 'number');
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
  mapping: Mapping<Column>,
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
