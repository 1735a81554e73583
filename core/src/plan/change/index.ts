/** Changing a plan: what differs, and what it means for the cards that carry it. */

export { type PlanChange, planChange, standInKnown, standInValues } from './change.ts';
export { differencesOf, type PlanDifference } from './compare.ts';
export { merged, partOf } from './part.ts';
