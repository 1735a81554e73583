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
    if (!said || (!said.settled && said.odds < LIKELY)) return said;
    this.heard ??= { all: this.every() };
    const { all } = this.heard;
    const share = all?.find(({ length }) => length === this.shown)?.share ?? UNKNOWN;
    const less = (words: string): Prediction => ({
      ...said,
      settled: false,
      settledBits: said.settledBits.map(() => false),
      odds: share * said.odds,
      rival: () => said.rival?.() ?? { bits: '', words },
    });
    if (!all) return less(UNHEARD);
    if (!said.settled) return less(UNHEARD);
    const other = all.find(({ family }) => !this.isAsAt(family.predict(print), said.bits));
    return other ? less(`unless the reads have ${other.length} bits`) : said;
  }

  /** Whether a family of another length has settled the same number. */
  private isAsAt(other: Prediction | undefined, bits: string): boolean {
    if (!other?.settled) return false;
    const most = Math.max(other.bits.length, bits.length);
    return other.bits.padStart(most, '0') === bits.padStart(most, '0');
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

/** What its length is likely to be is not known, then. */
const UNKNOWN = 0.5;
