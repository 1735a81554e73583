/** Boxes: runs of cards bought together, from their labels; and runs of numbers. */
export {
  type AgainstLabel,
  againstLabel,
  othersThatShow,
  type Presented,
  samePrint,
  type ToPresent,
  type Verdict,
} from './againstLabel.ts';
export {
  type BoxCard,
  type BoxLabel,
  boxLabelSchema,
  cardsOf,
  checkLabel,
  codeOf,
  countOf,
  MOST_CARDS,
  othersOf,
  type PrintRule,
  printOn,
  printRuleSchema,
  rangeOf,
} from './label.ts';
export { freeRun, gapsIn, type Range, sharedBy, sizeOf, united } from './ranges.ts';
