/** A plan of any kind of chip. */

export { changeOfPlan, standInKnownOf } from './change.ts';
export { exposingPart, type KeyPlace, keyPlacesOf } from './exposure.ts';
export {
  type AnyPlan,
  anyPlanSchema,
  CHIPS,
  filledBy,
  keyNamesOf,
  keyOriginOf,
  PLAN_KINDS,
  planJsonSchema,
  problemsOf,
  reachesOfAny,
  takesBits,
} from './kinds.ts';
export { blanksOf } from './replay.ts';
