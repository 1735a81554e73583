/** Cards and cardholders as they are kept. */
export { bitsOf } from './bitsOf.ts';
export { boxesMoved, boxOf } from './boxes.ts';
export { afterCursor, cursorAt } from './byName.ts';
export {
  cardsForDoors,
  cardsOfFormat,
  cardsOnFile,
  changesOfCards,
  countCards,
  countsOfBoxes,
  fillCounts,
  formatsOnFile,
  noteChanges,
} from './counts.ts';
export { fillBits } from './fillBits.ts';
export { escaped, holdersNamed } from './named.ts';
export { numberKey } from './numberKey.ts';
export { boxCountTable, boxTable, cardCountTable, cardholderTable, cardTable } from './tables.ts';
