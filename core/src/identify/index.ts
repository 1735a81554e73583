/** Identify: what is printed on a card, where in its bits that stands, and what a few cards prove of their format. */
export { type Agreement, agreementOf } from './agreement.ts';
export { Hull } from './algebra/hull.ts';
export { MOST_SUSPECTS } from './algebra/smallestSets.ts';
export { percentOf } from './box.ts';
export { type PrintedNumber, printedNumbers } from './cards/print.ts';
export { type SpecimenInput, specimenSchema } from './cards/specimen.ts';
export type {
  BitFinding,
  BoxCard,
  BoxFinding,
  Finding,
  GroupFinding,
  KnownFinding,
  LayoutFinding,
  PredictionFinding,
  PredictionStanding,
  Role,
  SettledBit,
  SingleError,
  Split,
  Standing,
  Suspect,
  TieBreaker,
} from './finding.ts';
export { type IdentifyOptions, identify } from './identify.ts';
export { type PartingCard, partingCard } from './parting.ts';
export type { Range } from './tieBreaker.ts';
export { type Window, type WindowOrder, windowInWords, windowsOf } from './windows.ts';
