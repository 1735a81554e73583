/** Device hosts as a site's people see them. */
export { hostRoutes } from './routes.ts';
