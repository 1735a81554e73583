/** Stock: cards entered, issued, changed. */
export { cardRoutes } from './cards.ts';
export { endCards } from './expire.ts';
export { sheetRoutes } from './sheets.ts';
