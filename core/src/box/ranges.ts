/** Runs of numbers, both ends included, and what they have in common. */

export interface Range {
  from: bigint;
  to: bigint;
}

export const sizeOf = ({ from, to }: Range): bigint => to - from + 1n;

/** What two ranges share; undefined where they share nothing. */
export function sharedBy(a: Range, b: Range): Range | undefined {
  const from = a.from > b.from ? a.from : b.from;
  const to = a.to < b.to ? a.to : b.to;
  return from <= to ? { from, to } : undefined;
}

/** The same numbers in as few ranges as possible, rising; ranges that touch become one. */
export function united(ranges: readonly Range[]): Range[] {
  const sorted = [...ranges].sort((a, b) => (a.from < b.from ? -1 : a.from > b.from ? 1 : 0));
  const result: Range[] = [];
  for (const { from, to } of sorted) {
    const last = result.at(-1);
    if (!last || from > last.to + 1n) result.push({ from, to });
    else if (to > last.to) last.to = to;
  }
  return result;
}

/** What of `within` none of the ranges has, rising. */
export function gapsIn(within: Range, ranges: readonly Range[]): Range[] {
  const gaps: Range[] = [];
  let next = within.from;
  for (const { from, to } of united(ranges)) {
    if (to < next) continue;
    if (from > within.to) break;
    if (from > next) gaps.push({ from: next, to: from - 1n });
    next = to + 1n;
  }
  if (next <= within.to) gaps.push({ from: next, to: within.to });
  return gaps;
}

/** The lowest run of `size` numbers of `within` that none of the ranges touches; undefined where there is none. */
export function freeRun(within: Range, ranges: readonly Range[], size: bigint): Range | undefined {
  const gap = gapsIn(within, ranges).find((g) => sizeOf(g) >= size);
  return gap && { from: gap.from, to: gap.from + size - 1n };
}
