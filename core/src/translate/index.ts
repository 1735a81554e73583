/** Translate: the same card as other devices show it, and what leads from one device's output to another's. */

export { layoutOfTranslation } from './asLayout.ts';
export { type Explained, type Explanation, explain, MOST_PAIRS, type Pair, type Settling } from './explain.ts';
export { type KnownCard, translateCard } from './ofCard.ts';
export { type Rendering, renderings } from './renderings.ts';
export {
  ORDERS,
  TRANSLATION_SCHEMA,
  type Translation,
  translate,
  translationInWords,
  translationJsonSchema,
  translationSchema,
} from './translation.ts';
