/** What the workers can do: plain functions of what is passed in, with nothing of the server about them. */
import { MOST_ROWS, type ReadIn, readJson, readLines, readSpanRows, unguardedCell } from '@rawbits/core/format';
import { checkAgainst, type Plan, reachesOf, reachesOfSectors, type SectorPlan } from '@rawbits/core/plan';
import Papa from 'papaparse';

/** Cells of a CSV text; one row more than is ever looked at, so that a longer file is told as such. */
export const fromCsv = (text: string): string[][] =>
  Papa.parse<string[]>(text, { preview: MOST_ROWS + 2 }).data.map((row) => row.map(unguardedCell));

function readFormats({ kind, text }: { kind: 'json' | 'csv' | 'lines'; text: string }): ReadIn {
  const clean = text.replace(/^\uFEFF/, '');
  if (kind === 'json') return readJson(clean);
  return kind === 'lines' ? readLines(clean) : readSpanRows(fromCsv(clean));
}

/** Of each assertion of a plan whether it holds, and the keys of whoever breaks it. */
function checkPlan(plan: Plan | SectorPlan) {
  const reaches = plan.kind === 'files' ? reachesOf(plan) : reachesOfSectors(plan);
  return plan.assertions.map((assertion) => {
    const { holds, keys } = checkAgainst<unknown>(reaches, assertion);
    return { assertion, holds, keys };
  });
}

export const JOBS = { readFormats, checkPlan };
export type Jobs = typeof JOBS;
