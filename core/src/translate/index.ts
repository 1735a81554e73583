/** Translate: the same card as other devices show it, and what leads from one device's output to another's. */
export { type Explained, type Explanation, explain, MOST_PAIRS, type Pair, type Settling } from './explain.ts';
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
