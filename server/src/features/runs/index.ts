/** Runs: cards encoded at a pad, one after the other. */
export { canCarry, carryRun, RUN } from './carry.ts';
export { type CardKnown, knownOf } from './known.ts';
export { runRoutes } from './routes.ts';
export { runCardTable, runTable } from './tables.ts';
