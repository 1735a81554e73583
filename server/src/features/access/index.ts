/** Access: who may pass which doors and when, reviewed before it is changed. */

export type { Mover } from './people.ts';
export { movesReviewed } from './review.ts';
export { accessRoutes } from './routes.ts';
export { reviseCardsOf, saveChange, saveMoves } from './save.ts';
export { stateOf } from './state.ts';
