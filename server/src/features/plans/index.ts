/** Chip plans of a site. */
export { countCarriers } from './carried.ts';
export {
  currentPlanAt,
  findPlan,
  markPlan,
  type PlanVersionRow,
  planAt,
  planAtVersion,
  planIn,
  plansAt,
  versionsOfPlan,
} from './describe.ts';
export { planRoutes } from './routes.ts';
export { type EncodedRow, encodedTable, planTable, planVersionTable, readerPlanTable } from './tables.ts';
