/** Tokens for scripts. */
export { tokenRoutes } from './routes.ts';
