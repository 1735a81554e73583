/** The family of formats that a settled prediction is proven within. */

export { sumOf, turnedBy } from './additive.ts';
export { AnyLength, type OfLength } from './anyLength.ts';
export { checksAmong } from './checkSearch.ts';
export { type CheckAt, checkInWords } from './checks.ts';
export { ChecksInParts } from './checksInParts.ts';
export { Family, type Prediction, type Rival } from './family.ts';
export { Frame } from './frame.ts';
export type { Hearing } from './hearing.ts';
export { LIKELY } from './likely.ts';
export { addedInOtherOrders } from './sites.ts';
export type { Also, FamilyInput } from './survivors.ts';
