/** What the workers can do: plain functions of what is passed in, with nothing of the server about them. */
import { randomBytes } from 'node:crypto';
import { failureOf } from '@rawbits/core/failure';
import { MOST_ROWS, type ReadIn, readJson, readLines, readSpanRows, unguardedCell } from '@rawbits/core/format';
import {
  checkAgainst,
  deliveredAt,
  type FileReader,
  type Known,
  type Plan,
  type PlanChange,
  planChange,
  reachesOf,
  reachesOfSectors,
  type SectorPlan,
  standInKnown,
} from '@rawbits/core/plan';
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

/** From each of some versions of a plan to the next one; and why each of some readers would not read the next one's cards. */
async function changePlan({ was, next, readers }: { was: Plan[]; next: Plan; readers: FileReader[] }) {
  const known = standInKnown(next);
  const changes: PlanChange[] = [];
  for (const version of was) changes.push(await planChange(version, next, draw));
  const refusals: (string | null)[] = [];
  for (const reader of readers) refusals.push(await refusal(next, reader, known));
  return { changes, refusals };
}

async function refusal(next: Plan, reader: FileReader, known: Known): Promise<string | null> {
  try {
    const { steps } = await deliveredAt(next, reader, known, draw);
    const last = steps.find(({ holds }) => !holds);
    return last ? `${last.step}: it wants ${last.expected}, and what comes is ${last.came}.` : null;
  } catch (error) {
    return failureOf(error).message;
  }
}

const draw = (count: number) => new Uint8Array(randomBytes(count));

export const JOBS = { readFormats, checkPlan, changePlan };
export type Jobs = typeof JOBS;
