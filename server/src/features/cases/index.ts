/** Cases: identifications under way. */
export { caseRoutes } from './routes.ts';
export { caseTable } from './tables.ts';
