/** Boxes: cards entered by their label, all at once. */
export { numberRoutes } from './numbers.ts';
export { boxRoutes } from './routes.ts';
export { BOX, carryBox, workInputSchema } from './work.ts';
