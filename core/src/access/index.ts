/** Access: what is loaded into a controller, and what it decides when a credential is presented. */
export { canonicalJson } from './canonical.ts';
export { type ControllerOutput, type ControllerState, controllerStep, RELEASE_MS } from './controllerStep.ts';
export { CARD_STATES, type CardState, type Credential, cardStateSchema, credentialSchema } from './credential.ts';
export { type ControllerImage, type Decision, decide, decideBy, EMPTY_IMAGE } from './decide.ts';
export { Engine, type Meaning, OPENED, type Passes, STEPS, type Step, sameValues } from './engine.ts';
export {
  CALENDAR,
  cardKey,
  carried,
  checkItem,
  digestsBelow,
  doorKey,
  EMPTY_DIGEST,
  FACILITY_COMPARED,
  formatKey,
  groupKey,
  Holdings,
  type ItemChange,
  isAboutPassing,
  itemHash,
  PLACE_DIGITS,
  placeOf,
  type Sha256,
  scheduleKey,
} from './holdings.ts';
export { type Key, keyOf, type Lookup, lookupIn, type OnFile, onFile } from './onFile.ts';
