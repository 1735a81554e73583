/** CSV, in and out. A cell that a spreadsheet would take for a formula goes out with an apostrophe in front. */
import { FORMULA_CELL, unguardedCell } from '@rawbits/core/format';
import Papa from 'papaparse';

export const toCsv = (rows: string[][]): string => `${Papa.unparse(rows, { escapeFormulae: FORMULA_CELL })}\r\n`;
export const fromCsv = (text: string): string[][] =>
  Papa.parse<string[]>(text.replace(/^\uFEFF/, '')).data.map((row) => row.map(unguardedCell));
