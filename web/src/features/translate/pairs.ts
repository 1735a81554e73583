/** Pairs of outputs as they are typed: rows of two fields, an empty one always at the end. */

import { type Failure, failureOf } from '@rawbits/core/failure';
import type { Explained, Pair } from '@rawbits/core/translate';
import { explain } from '@rawbits/core/translate';

export const EMPTY_PAIR: Pair = { a: '', b: '' };

/** Lines of two outputs, as pasted from a table: separated by a tab, a semicolon, or several spaces. */
export function pairsFrom(text: string): Pair[] {
  return text
    .split(/\r?\n/)
    .map((line) => line.trim())
    .filter(Boolean)
    .map((line) => {
      const [a = '', b = ''] = line.split(/\t|;|\s{2,}/).map((cell) => cell.trim());
      return { a, b };
    });
}

export const filled = (pairs: readonly Pair[]): Pair[] =>
  pairs.filter(({ a, b }) => a.trim() !== '' && b.trim() !== '');

export function explained(pairs: readonly Pair[]): { result?: Explained; failure?: Failure } {
  try {
    return { result: explain(pairs) };
  } catch (error) {
    return { failure: failureOf(error) };
  }
}
