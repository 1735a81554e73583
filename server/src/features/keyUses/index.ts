/** What the keys of a site may be used for: shown, asked for, agreed to, narrowed. */
export { keyUseRoutes } from './routes.ts';
