/** Access: what is loaded into a controller, and what it decides when a credential is presented. */
export { type Decision, decide, STEPS, type Step } from './decide.ts';
export {
  CARD_STATES,
  type CardState,
  type ControllerImage,
  type Credential,
  canonicalJson,
  cardStateSchema,
  controllerImageSchema,
  credentialSchema,
  differenceOf,
  EMPTY_IMAGE,
  type ImageDifference,
  imageText,
  itemsOf,
} from './image.ts';
