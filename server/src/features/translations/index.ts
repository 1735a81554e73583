/** Translations between two outputs of one card. */
export { translationRoutes } from './routes.ts';
export { translationTable } from './tables.ts';
