/** Dry runs. */
export { dryRunRoutes } from './routes.ts';
