/** Badges: what stands on the front of a card, and the marks of organisations. */
export { badgeRoutes } from './routes.ts';
export { markTable } from './tables.ts';
