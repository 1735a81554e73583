/** Cards and cardholders as they are kept. */
export { bitsOf } from './bitsOf.ts';
export { cardsForDoors, cardsOnFile, countCards, fillCounts } from './counts.ts';
export { fillBits } from './fillBits.ts';
export { cardCountTable, cardholderTable, cardTable } from './tables.ts';
