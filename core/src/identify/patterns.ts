/** Patterns: what parity bits usually cover, and which of it agrees with every specimen. */
import { positionsOf } from '../format/index.ts';
import { type Column, isFull, isZero, varies, xorColumns } from './cards/columns.ts';

export interface Cover {
  /** As in a layout line. */
  text: string;
  positions: number[];
  /** How unusual it is: 0 for what the trade does every day. */
  cost: number;
}

export interface ParityFit {
  at: number;
  sense: 'even' | 'odd';
  cover: Cover;
  /** Whether anything was tested: what it covers changes in parity among the specimens. */
  tested: boolean;
}

const clip = (from: number, to: number): string | undefined =>
  from > to ? undefined : from === to ? `${from}` : `${from}-${to}`;

/**
 * What a parity bit at `at` in `length` bits may cover, the usual first: half of the bits, all, those of a field, two of
 * three as in the longer formats, every second. `fields` are ranges that the layout already has.
 */
export function usualCovers(at: number, length: number, fields: readonly string[]): Cover[] {
  const texts: [string | undefined, number][] = [];
  const middles = [...new Set([Math.floor(length / 2), Math.ceil(length / 2)])];
  const first = (m: number): [string | undefined, number] => [clip(2, m), at === 1 ? 0 : 2];
  const last = (m: number): [string | undefined, number] => [clip(length + 1 - m, length - 1), at === length ? 0 : 2];
  for (const m of middles) texts.push(first(m), last(m));
  texts.push(
    [clip(2, length - 1), 1],
    [at === 1 ? clip(2, length) : undefined, 1],
    [at === length ? clip(1, length - 1) : undefined, 1],
  );
  for (const field of fields) texts.push([field, 1.5]);
  for (let i = 0; i < fields.length; i++) texts.push([fields.slice(0, i + 1).join(','), 2]);
  for (const run of [2, 1]) {
    for (let from = 1; from <= 5; from++) {
      for (let until = length - 3; until <= length; until++)
        texts.push([`${run === 2 ? `${from}-${from + 1}` : from} by 3 to ${until}`, 2]);
    }
  }
  for (const from of [1, 2, 3]) texts.push([`${from} by 2 to ${length}`, 3]);
  texts.push([clip(1, at - 1), 2.5], [clip(at + 1, length), 2.5]);
  const seen = new Set<string>();
  return texts.flatMap(([text, cost]) => {
    if (text === undefined) return [];
    const positions = positionsOf(text);
    const key = [...positions].sort((a, b) => a - b).join();
    if (seen.has(key) || positions.length === 0 || positions.includes(at) || positions.some((p) => p > length))
      return [];
    seen.add(key);
    return [{ text, positions, cost }];
  });
}

/** Whether a cover agrees with the bit in every specimen, and in which sense. */
export function testCover(columns: readonly Column[], count: number, at: number, cover: Cover): ParityFit | undefined {
  const words = columns[0]!.length;
  const sum = xorColumns(
    cover.positions.map((p) => columns[p - 1]!),
    words,
  );
  const tested = varies(sum, count);
  const difference = xorColumns([sum, columns[at - 1]!], words);
  if (isZero(difference)) return { at, sense: 'even', cover, tested };
  return isFull(difference, count) ? { at, sense: 'odd', cover, tested } : undefined;
}

/** Every usual cover that agrees with all specimens, the most usual first. */
export function parityFits(
  columns: readonly Column[],
  count: number,
  at: number,
  fields: readonly string[],
): ParityFit[] {
  return usualCovers(at, columns.length, fields)
    .flatMap((cover) => testCover(columns, count, at, cover) ?? [])
    .sort((a, b) => a.cover.cost - b.cover.cost);
}
