/** Formats as a site uses them. */
export { giveUp, takeUp } from './adoption.ts';
export { exchangeRoutes } from './exchange.ts';
export { formatFrom, formatRoutes } from './routes.ts';
