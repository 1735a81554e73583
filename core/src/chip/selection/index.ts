/** Credentials in a field: which one is there, and what it says of itself. */
export { type Selection, selectionOf, selectOne } from './selection.ts';
