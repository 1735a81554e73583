/**
 * Format: what a format is, as data, as a layout line and as JSON; what is wrong with one; its masks and its settings
 * sheet; editing it; files of formats.
 */
export { arrivalOf } from './arrival.ts';
export { FORMULA_CELL, unguardedCell } from './csvCells.ts';
export * from './definition.ts';
export { paint, remove, replace, resize, toggleCovered } from './edit.ts';
export {
  FORMATS_SCHEMA,
  formatSetJsonSchema,
  formatSetSchema,
  readJson,
  readLines,
  writeJson,
  writeLines,
} from './exchange.ts';
export { layoutFromSheet } from './fromSheet.ts';
export { parseLayoutLine, printLayoutLine, printMethod } from './layoutLine.ts';
export { masksOf } from './masks.ts';
export { type MaskTexts, maskOf, maskPositions, maskTexts } from './maskText.ts';
export { printedOf, printInWords } from './printed.ts';
export { assertSound, fillOrder, isSound, type Problem, problemsOf } from './problems.ts';
export { expandRange, normalRange, parseRange, positionsOf, printRange, type Run, rangeOf } from './range.ts';
export { MOST_FORMATS, MOST_PROBLEMS, MOST_ROWS, type ReadIn, structuralId } from './readIn.ts';
export { itemOf, type Setting, type SheetOptions, settingsOf, settingsRows } from './settings.ts';
export { readSpanRows, spanRows } from './spanRows.ts';
export { isWhole, wholeLayout } from './whole.ts';
