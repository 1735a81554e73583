/** The rig as a site sees it. */
export { RigIngest } from './ingest.ts';
export { rigRoutes } from './routes.ts';
