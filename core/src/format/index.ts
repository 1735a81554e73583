/** Format: what a format is, as data, as a layout line and as JSON; what is wrong with one; its masks. */
export * from './definition.ts';
export { parseLayoutLine, printLayoutLine, printMethod } from './layoutLine.ts';
export { masksOf } from './masks.ts';
export { assertSound, fillOrder, type Problem, problemsOf } from './problems.ts';
export { expandRange, normalRange, parseRange, positionsOf, printRange, type Run, rangeOf } from './range.ts';
