/** Marks: keyed hashes of rows that decide where keys go, apart from the rows. */
export { forgetMarks, MARK_KINDS, type Mark, type MarkKind, markRow, marksOf, unmarkRow } from './marks.ts';
export { markTable } from './tables.ts';
