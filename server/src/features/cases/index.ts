/** Cases: identifications under way. */
export { caseRoutes } from './routes.ts';
