/** Cards and cardholders as they are kept. */
export { bitsOf } from './bitsOf.ts';
export {
  cardsForDoors,
  cardsOfFormat,
  cardsOnFile,
  changesOfCards,
  countCards,
  fillCounts,
  noteChanges,
} from './counts.ts';
export { fillBits } from './fillBits.ts';
export { numberKey } from './numberKey.ts';
export { cardCountTable, cardholderTable, cardTable } from './tables.ts';
