/** Stock: cards entered, issued, changed, and their holders. */
export { cardholderRoutes } from './cardholders.ts';
export { cardRoutes } from './cards.ts';
export { sheetRoutes } from './sheets.ts';
