/**
 * Range lists: which positions of a format a span takes, and in which order (the first listed is the most significant
 * bit of its value). Written `2-9`, `2-9,14`, `25-10` (running down) or, stepped, `3-4 by 3 to 34`. Design §4.
 */
import { fail } from '../failure/index.ts';

/** One item of a range list: a run from `from` to `to`, up or down, and perhaps its repetition. */
export interface Run {
  from: number;
  to: number;
  step?: { by: number; until: number };
}

const ITEM = /^(\d+)(?:\s*-\s*(\d+))?(?:\s+by\s+(\d+)\s+to\s+(\d+))?$/;

/**
 * Reads a range list. `column` is where the text begins, for errors. Throws `range-empty`, `range-syntax`,
 * `range-position` (a position below 1), `range-step` (a falling run stepped, steps that overlap or do not rise, or
 * that end before they begin: such a run names no position at all).
 */
export function parseRange(text: string, column = 1): Run[] {
  return readRuns(text, column, (part, { from, step }, where) => {
    if (step && step.until < from)
      fail(
        'range-step',
        `"${part}" ends at ${step.until} before it begins at ${from}: it names no position.`,
        where,
        `Step to ${from} or further.`,
      );
  });
}

type Judge = (part: string, run: Run, where: { column: number }) => void;

function readRuns(text: string, column: number, judge: Judge): Run[] {
  if (text.trim() === '')
    fail('range-empty', 'The list of positions is empty.', { column }, 'Write positions such as 2-9 or 2-9,14.');
  const runs: Run[] = [];
  let at = 0;
  for (const part of text.split(',')) {
    const where = { column: column + at + (part.length - part.trimStart().length) };
    at += part.length + 1;
    const match = ITEM.exec(part.trim());
    if (!match)
      fail('range-syntax', `"${part.trim()}" is not a list of positions.`, where, 'Write 2-9, 14 or 3-4 by 3 to 34.');
    const [from, to] = [Number(match[1]), Number(match[2] ?? match[1])];
    if (from < 1 || to < 1) fail('range-position', 'Positions count from 1.', where);
    const run: Run = { from, to };
    if (match[3] !== undefined) {
      const [by, until] = [Number(match[3]), Number(match[4])];
      if (to < from) fail('range-step', 'A falling run cannot be stepped.', where, 'List its positions one by one.');
      if (by <= to - from)
        fail(
          'range-step',
          `Steps of ${by} make ${part.trim()} overlap itself.`,
          where,
          'Step by more than its length.',
        );
      run.step = { by, until };
    }
    judge(part.trim(), run, where);
    runs.push(run);
  }
  return runs;
}

/** Prints a range list in its one canonical spelling. */
export function printRange(runs: readonly Run[]): string {
  return runs
    .map(({ from, to, step }) => {
      const run = from === to ? `${from}` : `${from}-${to}`;
      return step ? `${run} by ${step.by} to ${step.until}` : run;
    })
    .join(',');
}

/** More positions than this in one list cannot be of any format; it stops a hostile list from filling the memory. */
const MOST = 4096;

/** The positions of a range list in order, the most significant first. Throws `range-long` past 4,096 of them. */
export function expandRange(runs: readonly Run[]): number[] {
  const positions: number[] = [];
  const push = (position: number) => {
    if (positions.length >= MOST) fail('range-long', `The list names more than ${MOST} positions.`);
    positions.push(position);
  };
  for (const { from, to, step } of runs) {
    if (step) {
      for (let base = from; base <= step.until; base += step.by) {
        for (let p = base; p <= base + (to - from) && p <= step.until; p++) push(p);
      }
    } else if (from <= to) {
      for (let p = from; p <= to; p++) push(p);
    } else {
      for (let p = from; p >= to; p--) push(p);
    }
  }
  return positions;
}

/** The shortest plain spelling of positions in order: rising and falling runs, no steps. */
export function rangeOf(positions: readonly number[]): string {
  const runs: Run[] = [];
  for (const p of positions) {
    const last = runs.at(-1);
    const rising = last && p === last.to + 1 && last.to >= last.from;
    const falling = last && p === last.to - 1 && last.to <= last.from;
    if (last && (rising || falling)) last.to = p;
    else runs.push({ from: p, to: p });
  }
  return printRange(runs);
}

const anyRun: Judge = () => {};

/**
 * The canonical spelling of a range list's text. A run that names no position is let through, so that a file or an
 * older version with one can still be shown; `problemsOf` calls it an error.
 */
export function normalRange(text: string): string {
  return printRange(readRuns(text, 1, anyRun));
}

/** The positions that a range list's text names, in order; none for a run that ends before it begins. */
export function positionsOf(text: string): number[] {
  return expandRange(readRuns(text, 1, anyRun));
}
