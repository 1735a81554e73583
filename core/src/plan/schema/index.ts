/** What a chip plan is, and what is wrong with one. */
export {
  type Assertion,
  assertionSchema,
  CARD_KEY_KINDS,
  keyNames,
  keyOfPlan,
  type Plan,
  type PlanApplication,
  type PlanFile,
  type PlanInput,
  type PlanKey,
  planKeySchema,
  planSchema,
  type Who,
} from './plan.ts';
export { bytesOfPlan, bytesOfPlanApplication, bytesOfPlanFile, type PlanProblem, problemsOfPlan } from './problems.ts';
