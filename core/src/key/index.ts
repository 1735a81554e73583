/** Keys: kinds, check values, components, diversification and wrap. Nothing here keeps a key. */
export { CHECK_VALUES, type CheckValueOf, checkValueOf, usualCheckValue } from './checkValue.ts';
export { combined, FEWEST_COMPONENTS, MOST_COMPONENTS, splitUp } from './components.ts';
export {
  DIVERSIFIED_KINDS,
  type Diversified,
  type DiversifiedKind,
  Diversifier,
  type DiversifyStep,
  diversifyData,
  MOST_DATA,
} from './diversify.ts';
export {
  assertParity,
  assertStrong,
  isTripleDes,
  KEY_BYTES,
  KEY_KINDS,
  type KeyKind,
  keyOf,
  parityHolds,
  versionIn,
  weaknessesOf,
  withParity,
  withVersion,
} from './kinds.ts';
export { type Holding, type Known, knownTo } from './leak.ts';
export { unwrapped, wrapped } from './wrap.ts';
