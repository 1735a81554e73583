/** Reads. */
export { describeRead, readRoutes } from './routes.ts';
export { readTable } from './tables.ts';
