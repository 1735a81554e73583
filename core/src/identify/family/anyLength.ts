/**
 * The family where the length of the reads is a question: they are right-justified, and zeros in front of them may have been lost, or
 * added. Each length has a family of its own. Bits are told at one of them; a card's are settled where those of every length come to the
 * same number, and no likelier than its length is.
 */
import type { PrintValue } from '../cards/readings.ts';
import type { Family, Prediction } from './family.ts';
import type { Hearing } from './hearing.ts';
import { LIKELY } from './likely.ts';

export interface OfLength {
  length: number;
  family: Family;
  /** The part of all that the length is, from 0 to 1. */
  share: number;
}

const UNHEARD = 'unless the reads have another length: so few cards agree with very many';

export class AnyLength implements Hearing {
  private readonly shown: number;
  private heard: { all: readonly OfLength[] | undefined } | undefined;

  /**
   * `own`: the family of the length at which bits are told. `every`: those of all lengths that are left, it among them; undefined where at
   * one of them too much is possible to be gone through. It is asked only where at the own length something is known.
   */
  constructor(
    private readonly own: Family,
    length: number,
    private readonly every: () => readonly OfLength[] | undefined,
  ) {
    this.shown = length;
  }

  /** Of the length at which bits are told. */
  get count(): bigint {
    return this.own.count;
  }

  get size(): string {
    return this.own.size;
  }

  predict(print: PrintValue): Prediction | undefined {
    const said = this.own.predict(print);
    if (!said) return undefined;
    // Which bits of it the other lengths settle, too, is not gone through.
    const settledBits = said.settledBits.map(() => false);
    if (!said.settled && said.odds < LIKELY) return { ...said, settledBits };
    this.heard ??= { all: this.every() };
    const { all } = this.heard;
    const other = said.settled && all?.find(({ family }) => !hasSettled(family.predict(print), said.bits));
    if (said.settled && all && !other) return said;
    const share = all?.find(({ length }) => length === this.shown)?.share ?? UNKNOWN;
    const words = other ? `unless the reads have ${other.length} bits` : UNHEARD;
    const rival = () => said.rival?.() ?? { bits: '', words };
    return { ...said, settled: false, settledBits, odds: share * said.odds, rival };
  }

  saysOtherwise(print: PrintValue, bits: string): boolean {
    return this.own.saysOtherwise(print, bits);
  }

  openness(print: PrintValue): Float64Array | undefined {
    return this.own.openness(print);
  }

  sample(print: PrintValue, random: () => number): string | undefined {
    return this.own.sample(print, random);
  }
}

/** Whether a family of another length has settled the same number. */
function hasSettled(said: Prediction | undefined, bits: string): boolean {
  if (!said?.settled) return false;
  const most = Math.max(said.bits.length, bits.length);
  return said.bits.padStart(most, '0') === bits.padStart(most, '0');
}

/** What its length is likely to be is not known, then. */
const UNKNOWN = 0.5;
