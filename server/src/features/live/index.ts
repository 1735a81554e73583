/** The live feed of a site. */
export { liveRoutes } from './routes.ts';
