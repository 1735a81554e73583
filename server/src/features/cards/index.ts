/** Cards and cardholders as they are kept. */
export { bitsOf } from './bitsOf.ts';
export { fillBits } from './fillBits.ts';
export { cardholderTable, cardTable } from './tables.ts';
