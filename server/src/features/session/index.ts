/** Signing in and out, and setting up the first site. */
export { sessionRoutes } from './routes.ts';
