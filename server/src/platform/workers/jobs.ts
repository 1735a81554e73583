/** What the workers can do: plain functions of what is passed in, with nothing of the server about them. */
import { MOST_ROWS, type ReadIn, readJson, readLines, readSpanRows, unguardedCell } from '@rawbits/core/format';
import Papa from 'papaparse';

/** Cells of a CSV text; one row more than is ever looked at, so that a longer file is told as such. */
export const fromCsv = (text: string): string[][] =>
  Papa.parse<string[]>(text, { preview: MOST_ROWS + 2 }).data.map((row) => row.map(unguardedCell));

function readFormats({ kind, text }: { kind: 'json' | 'csv' | 'lines'; text: string }): ReadIn {
  const clean = text.replace(/^\uFEFF/, '');
  if (kind === 'json') return readJson(clean);
  return kind === 'lines' ? readLines(clean) : readSpanRows(fromCsv(clean));
}

export const JOBS = { readFormats };
export type Jobs = typeof JOBS;
