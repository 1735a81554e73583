/** Doors: controllers, readers, loads, events. */
export { setAccepted } from './accept.ts';
export { eventRoutes } from './events.ts';
export { credentialFrom, siteImages } from './images.ts';
export { settleLost } from './load.ts';
export { doorRoutes } from './routes.ts';
export { controllerFormatTable, controllerTable, eventTable, readerTable } from './tables.ts';
