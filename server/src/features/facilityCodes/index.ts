/** Facility codes of a site. */
export { checkCode } from './check.ts';
export { namedCode, reservedFrom, reservedUnder } from './named.ts';
export { carryRecoding, changeCode } from './recoding.ts';
export { facilityCodeRoutes } from './routes.ts';
export { facilityCodeTable } from './tables.ts';
