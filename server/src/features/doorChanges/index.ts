/** Controllers and readers that are changed, moved, or leave a site. */
export { CLEARING_ITEMS, carryClearingItems } from './remove.ts';
export { doorChangeRoutes } from './routes.ts';
