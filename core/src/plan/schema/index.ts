/** What a chip plan is, and what is wrong with one. */
export {
  type Assertion,
  assertionSchema,
  CARD_KEY_KINDS,
  keyNames,
  type Plan,
  type PlanApplication,
  type PlanFile,
  type PlanInput,
  planJsonSchema,
  planSchema,
  type Who,
} from './plan.ts';
export { bytesOfPlan, bytesOfPlanApplication, bytesOfPlanFile, type PlanProblem, problemsOfPlan } from './problems.ts';
