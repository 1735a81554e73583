/** Sites. */
export { insertSite } from './insert.ts';
export { siteRoutes } from './routes.ts';
export { siteTable } from './tables.ts';
