/** The trail of a site, and of the house. */
export { trailRoutes } from './routes.ts';
