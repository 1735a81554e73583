/** Reads, and the readers at which somebody waits for one. */
export { armingRoutes, fillArmed } from './arming.ts';
export { describeRead } from './describe.ts';
export { readRoutes } from './routes.ts';
export { armedReaderTable, readTable } from './tables.ts';
