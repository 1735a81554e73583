/** What a family, or several of them, say of cards. */
import type { PrintValue } from '../cards/readings.ts';
import type { Prediction } from './family.ts';

export interface Hearing {
  /** How many members agree with the cards. */
  readonly count: bigint;
  /** About how many there are, as a power of ten. */
  readonly size: string;
  /** Undefined where no member agrees with the cards, or the print is no number under the readings that are left. */
  predict(print: PrintValue): Prediction | undefined;
  /** Whether a member with an additive sum, which agrees with the cards, may give other bits. */
  saysOtherwise(print: PrintValue, bits: string): boolean;
  /** How open each position of a card is, in bits from 0 to 1, and 0 where it is settled; undefined where the print is no number. */
  openness(print: PrintValue): Float64Array | undefined;
  /** Bits that a card may have, by how likely they are; `random` gives numbers from 0 to below 1. */
  sample(print: PrintValue, random: () => number): string | undefined;
}
