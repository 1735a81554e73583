/** Stock: cards entered, issued, changed. */
export { cardRoutes } from './cards.ts';
export { endCards } from './expire.ts';
export { filterRoutes } from './filters.ts';
export { sheetRoutes } from './sheets.ts';
export { savedFilterTable } from './tables.ts';
export { wholeCardRoutes } from './wholeCards.ts';
