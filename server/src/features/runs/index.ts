/** Runs: cards encoded at a pad, one after the other. */
export { carryRun, RUN } from './carry.ts';
export { runRoutes } from './routes.ts';
