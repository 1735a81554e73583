/** What the workers can do: plain functions of what is passed in, with nothing of the server about them. */
import { randomBytes } from 'node:crypto';
import { MOST_ROWS, type ReadIn, readJson, readLines, readSpanRows, unguardedCell } from '@rawbits/core/format';
import {
  type AnyPlan,
  changeOfPlan,
  checkAgainst,
  deliveredAt,
  type Known,
  type PlanChange,
  type ReaderSettings,
  reachesOfAny,
  standInKnownOf,
} from '@rawbits/core/plan';
import Papa from 'papaparse';
import { sentenceFor } from '../problem/sentence.ts';

/** Cells of a CSV text; one row more than is ever looked at, so that a longer file is told as such. */
export const fromCsv = (text: string): string[][] =>
  Papa.parse<string[]>(text, { preview: MOST_ROWS + 2 }).data.map((row) => row.map(unguardedCell));

function readFormats({ kind, text }: { kind: 'json' | 'csv' | 'lines'; text: string }): ReadIn {
  const clean = text.replace(/^\uFEFF/, '');
  if (kind === 'json') return readJson(clean);
  return kind === 'lines' ? readLines(clean) : readSpanRows(fromCsv(clean));
}

/** Of each assertion of a plan whether it holds, and the keys of whoever breaks it. */
function checkPlan(plan: AnyPlan) {
  const reaches = reachesOfAny(plan);
  return plan.assertions.map((assertion) => {
    const { holds, keys } = checkAgainst(reaches, assertion);
    return { assertion, holds, keys };
  });
}

/** What whoever has one of some keys can do to a card of a plan, and those without any key cannot. */
function reachOfKeys({ plan, names }: { plan: AnyPlan; names: string[] }) {
  const { reach } = reachesOfAny(plan);
  const free = new Set(reach(new Set()).map(({ can }) => can));
  return names.map((key) => ({
    key,
    can: reach(new Set([key]))
      .map(({ can }) => can)
      .filter((can) => !free.has(can)),
  }));
}

/** From each of some versions of a plan to the next one; and why each of some readers would not read the next one's cards. */
async function changePlan({ was, next, readers }: { was: AnyPlan[]; next: AnyPlan; readers: ReaderSettings[] }) {
  const changes: PlanChange[] = [];
  for (const version of was) changes.push(await changeOfPlan(version, next, draw));
  const refusals: (string | null)[] = [];
  const known = standInKnownOf(next);
  for (const reader of readers) refusals.push(await refusal(next, reader, known));
  return { changes, refusals };
}

async function refusal(next: AnyPlan, reader: ReaderSettings, known: Known): Promise<string | null> {
  try {
    const { steps } = await deliveredAt(next, reader, known, draw);
    const last = steps.find(({ holds }) => !holds);
    return last ? `${last.step}: it wants ${last.expected}, and what comes is ${last.came}.` : null;
  } catch (error) {
    return sentenceFor(error);
  }
}

const draw = (count: number) => new Uint8Array(randomBytes(count));

export const JOBS = { readFormats, checkPlan, reachOfKeys, changePlan };
export type Jobs = typeof JOBS;
