/** A sheet as it came: its headings and rows, what its columns are, and the rows that go back to be mended. */
import type { RefusedRow } from '@rawbits/api';

/** What each column of a sheet is; null for one that is left out. */
export type Mapping<Column extends string> = (Column | null)[];
/** Words that people head columns with, the more particular first. */
export type Headings<Column extends string> = readonly (readonly [Column, RegExp])[];

export interface Sheet {
  headings: string[];
  rows: string[][];
  /** The number of the first row in the file, from 1. */
  firstRow: number;
}

const noNumber = (cells: string[]): boolean => cells.every((cell) => !/^\s*\d+\s*$/.test(cell));

/**
 * Cells as a sheet: its first row is a heading where `isHeading` takes it for one; without, where no cell of it is a
 * number. Empty rows are left out at its end.
 */
export function sheetOf(cells: string[][], isHeading: (cells: string[]) => boolean = noNumber): Sheet {
  const rows = [...cells];
  while (rows.length > 0 && rows.at(-1)!.every((cell) => cell.trim() === '')) rows.pop();
  const [head = []] = rows;
  const hasHeading = head.some((cell) => cell.trim() !== '') && isHeading(head);
  const width = Math.max(0, ...rows.map((row) => row.length));
  const headings = Array.from({ length: width }, (_, i) => (hasHeading ? (head[i] ?? '').trim() : ''));
  return { headings, rows: hasHeading ? rows.slice(1) : rows, firstRow: hasHeading ? 2 : 1 };
}

/** What the columns most likely are by their headings. */
export function guessedBy<Column extends string>({ headings }: Sheet, words: Headings<Column>): Mapping<Column> {
  const taken = new Set<Column>();
  return headings.map((heading) => {
    const found = words.find(([column, one]) => !taken.has(column) && one.test(heading.toLowerCase()))?.[0];
    if (heading === '' || !found) return null;
    taken.add(found);
    return found;
  });
}

export type Told = Pick<RefusedRow, 'row' | 'message' | 'hint'>;

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

export const allBad = (own: readonly Told[], { bad }: { bad: readonly Told[] }): Told[] =>
  [...own, ...bad].sort((a, b) => a.row - b.row);
