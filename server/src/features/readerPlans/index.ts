/** Readers that are set up by a plan. */
export { readerPlanRoutes } from './routes.ts';
