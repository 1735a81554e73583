/** Dry runs. */
export { dryRunRoutes } from './routes.ts';
export { carryDryRun, DRY_RUN } from './work.ts';
