/** Errors in a case, as data: what was done wrong with which cards, and what puts it right. */
import type { Specimen } from '../cards/specimen.ts';

export type ErrorKind =
  | 'swapped pair'
  | 'mistyped print'
  | 'misread bit'
  | 'inverted read'
  | 'lost bit'
  | 'lost zeros'
  | 'other facility code'
  | 'other format';

/** What becomes of a specimen when an error is put right: another print, other bits, a group of its own, or it is set aside. */
export interface Mend {
  /** 1-based. */
  row: number;
  printed?: string;
  /** Which of the prints that is, from 0; the first unless this says otherwise. */
  print?: number;
  bits?: string;
  group?: string;
  aside?: true;
}

/** One way to explain what does not agree. */
export interface Candidate {
  kind: ErrorKind;
  /** Indices of the specimens that are not as they should be. */
  at: number[];
  mend: Mend[];
  /** What is explained by one format each once it is put right; one part, or two where there are two kinds of card. */
  parts: Specimen[][];
  /** How unusual the error is, in bits: less is likelier. */
  bits: number;
  /** Positions (1-based) that are not as they should be, for a misread bit. */
  positions?: number[];
}

export const rowOf = (specimen: Specimen): number => specimen.index + 1;
