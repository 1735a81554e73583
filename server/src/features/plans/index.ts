/** Chip plans of a site. */
export { countCarriers } from './carried.ts';
export { findPlan, type PlanVersionRow, planIn, versionsOfPlan } from './describe.ts';
export { planRoutes } from './routes.ts';
export { type EncodedRow, encodedTable, planTable, planVersionTable, readerPlanTable } from './tables.ts';
