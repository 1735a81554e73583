/** What an identification finds, as data. Positions are 1-based from the first bit sent; number bits are named by k of 2^k. */
import type { ErrorKind, Mend } from './errors/error.ts';
import type { Hypothesis } from './hypotheses.ts';

export type Standing = 'proven' | 'presumed' | 'open';

export interface Role {
  is: 'number' | 'facility' | 'issue' | 'value' | 'fixed' | 'parity' | 'check' | 'spare';
  /** Which number bit, for a number. */
  bit?: number;
  /** What a parity bit covers, and how. */
  of?: string;
  sense?: 'even' | 'odd';
  standing: Standing;
}

export interface BitFinding {
  at: number;
  standing: Standing;
  /** The number bits (k of 2^k) whose exclusive or, with `plus`, is this bit: only where that is settled. */
  xorOf?: number[];
  /** Bits of a known facility code in it, by power of two. */
  xorOfFacility?: number[];
  plus?: 0 | 1;
  role?: Role;
  /** What it may be, where that is open. */
  alternatives?: string[];
  /** Whether it changes among the specimens. */
  changes: boolean;
  why: string;
}

/** What one number bit does: the positions of the read that turn with it. */
export interface SettledBit {
  /** k of 2^k. */
  bit: number;
  turns: number[];
}

export interface LayoutFinding {
  layout: string;
  standing: 'presumed';
  /** How many specimens it fits. */
  fits: number;
  /** The library's id, where it is one. */
  format?: string;
  /** By chance it would fit once in 2^evidence. */
  evidence: number;
  facility?: string;
}

export interface KnownFinding {
  format: string;
  fits: number;
  /** Rows (1-based) that do not fit, each with why. */
  misfits: { row: number; reason: string }[];
  facility?: string;
}

/**
 * How far a prediction stands: proven by algebra; settled, as every format of the family that agrees with the cards gives it; likely
 * with its odds; open otherwise. Presumed only where the family does not say: by a layout that fits.
 */
export type PredictionStanding = 'proven' | 'settled' | 'likely' | 'presumed' | 'open';

/** An error in the cards, of which there is one. */
export type SingleError = 'wrong print' | 'exchanged pair' | 'misread bit' | 'other facility code';

export interface PredictionFinding {
  printed: string;
  bits: string | null;
  standing: PredictionStanding;
  /** How likely it is, from 0 to 1; null where that is not known. */
  odds: number | null;
  /** The likeliest that says otherwise, where it is not settled. */
  rival: string | null;
  /** The positions of its bits that are not settled, where the family says so. */
  unsettled?: number[];
  /** Which single errors could not change it unseen, where it is proven. */
  withstands?: SingleError[];
  checks: number;
  /** Rows (1-based) that it follows from, where it is proven. */
  from?: number[];
  why: string;
}

/** A card of the box. */
export interface BoxCard {
  number: string;
  standing: 'proven' | 'settled' | 'likely' | 'open';
  odds: number | null;
  bits: string | null;
  /** The row (1-based) of the specimen that it is. */
  row?: number;
}

/** The cards of a box, and how far the bits of each stand. */
export interface BoxFinding {
  from: string;
  to: string;
  /** Whether the range was given; else it is the prints' own, widened to round hundreds. */
  given: boolean;
  /** How many cards it has; of these as many are listed, evenly chosen. */
  of: string;
  cards: BoxCard[];
  proven: number;
  settled: number;
  likely: number;
  open: number;
  /** At most so many more cards of it, each no sum of those read before, until all of it is proven. */
  until: number;
  /** How many formats the family has, and how many are left; as powers of ten where there are many. Null where none is. */
  family: { size: string; survivors: string } | null;
}

export interface TieBreaker {
  /** The number to look for. */
  printed: string;
  /** Any number from here to there does as well. */
  from: string;
  to: string;
  /** The bits (positions) that it would settle. */
  settles: number[];
  /** How much its bits would tell, in bits, where the family says how open they are. */
  gain?: number;
  /** How many more cards it most likely takes until the bits of all the box are settled; null where that is not known. */
  until?: number | null;
  words: string;
  /** At most this many more cards until everything is proven, with one check. */
  atMost: number;
}

export interface Suspect {
  kind: ErrorKind | 'one card, two prints' | 'to be set aside';
  /** Rows (1-based). */
  rows: number[];
  words: string;
  /** What puts it right, where that is known. */
  mend?: Mend[];
  /** How likely it is among all explanations, from 0 to 1, where that is known. */
  odds?: number;
  /** How many checks the rest then leaves, all of them holding. */
  checks?: number;
  /** What the rest says once these are set aside. */
  afterwards?: string;
}

export interface Split {
  /** Rows (1-based) of each part. */
  groups: number[][];
  words: string;
  checks: number[];
}

export interface GroupFinding {
  /** The name of the group; empty where there is only one. */
  group: string;
  rows: number[];
  length: number;
  /** Lengths that are possible, where the length is a question; the likeliest first. */
  lengths?: { length: number; formats: string[] }[];
  rank: number;
  checks: number;
  consistent: boolean;
  /** How the prints are read, in words, and the other ways that also fit. */
  reading: string | null;
  rivals: string[];
  places: string[];
  assumptions: string[];
  bits: BitFinding[];
  /** Number bits whose effect is proven by itself, and those that changed but never alone. */
  settled: SettledBit[];
  unsettled: number[];
  layouts: LayoutFinding[];
  known: KnownFinding[];
  predictions: PredictionFinding[];
  /** The box: null where no print is a decimal number, or the cards do not agree. */
  range: BoxFinding | null;
  tieBreaker: TieBreaker | null;
  suspects: Suspect[];
  splits: Split[];
  /** For sets of suspects: up to how many specimens they were searched for. */
  searchedUpTo: number;
  /** What was put right first, where the cards do not agree as they are: the words of the suspect. All else is as they are then. */
  assuming?: string;
  summary: string;
}

export interface Finding extends GroupFinding {
  /** All groups, where there are several; what stands above is the largest. */
  groups?: GroupFinding[];
  /** Rows (1-based) set aside by whoever keeps the case. */
  setAside: number[];
}

export const layoutFinding = (h: Hypothesis, fits: number): LayoutFinding => ({
  layout: h.line,
  standing: 'presumed',
  fits,
  ...(h.format && { format: h.format.id }),
  evidence: h.evidence,
  ...(h.facility !== undefined && { facility: h.facility }),
});
