/** Plans of rewritable tags: what they send, a tag with one on it, and what can be done to it. */
export { bringTag, compareTag, freeTag, type TagBringing, type TagRing, tagNotBlank } from './bring.ts';
export {
  configurationWord,
  contentsOf,
  keyNamesOfTag,
  lockedBlocks,
  PASSWORD_BLOCK,
  problemsOfTag,
  sentBlocks,
  TAG_BYTES,
  type TagPlan,
  tagPlanSchema,
} from './plan.ts';
export { reachesOfTag, reachOfTag, type TagAbility, type TagStep } from './reach.ts';
export { standInPassword, standInTag, TagPlayer, tagTransport } from './tag.ts';
