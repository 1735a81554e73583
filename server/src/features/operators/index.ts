/** Operators and their roles. */
export { operatorRoutes } from './routes.ts';
