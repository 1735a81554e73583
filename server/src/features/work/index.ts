/** Changes of many things that are being carried out. */
export { workRoutes } from './routes.ts';
