/** Cells of CSV files. A cell that a spreadsheet would run as a formula goes out with an apostrophe in front of it. */

/** What a spreadsheet takes for the beginning of a formula. */
export const FORMULA_CELL = /^[=+\-@\t\r]/;

/** A cell as it was before it was guarded. */
export const unguardedCell = (cell: string): string => cell.replace(/^'(?=[=+\-@\t\r])/, '');
