/** What intake makes of a text: one or more readings of it, the one taken first. */
import type { Bits, Justified } from '../bits/index.ts';
import type { Format } from '../format/index.ts';
import type { Pulse } from '../line/index.ts';

/** Longer pastes are refused unread. */
export const LONGEST_PASTE = 1_000_000;

export const NOTATIONS = {
  binary: 'binary digits',
  hex: 'hex',
  'hex-left': 'hex, left-justified',
  decimal: 'decimal',
  uid: 'UID, most significant byte first',
  'uid-reversed': 'UID, least significant byte first',
  'facility-number': 'facility,number print (low 24 bits)',
  'ten-digits': 'ten-digit print (low 32 bits)',
  'ber-bit-string': 'BER-TLV bit string',
  'osdp-raw': 'OSDP RAW reply',
  'clock-and-data': 'clock-and-data characters',
  keypad: 'keys of a keypad',
  pulses: 'pulses of a recorded line',
} as const;

export type Notation = keyof typeof NOTATIONS;

export interface Reading {
  notation: Notation;
  bits: Bits;
  /** What was assumed, where something was. */
  note?: string;
  /** Of a recorded line: the pulses that the bits are. */
  pulses?: Pulse[];
}

export interface Intake {
  /** The reading taken, and after it every other one that was possible. */
  readings: [Reading, ...Reading[]];
  /** What stood beside the read and was passed over, with … in its place; empty where nothing was. */
  passedOver: string;
  /** The reads of the frames behind the first, in a stream of several. */
  others?: Reading[];
}

export interface IntakeOptions {
  /** The length in bits, where it is known. */
  length?: number;
  justified?: Justified;
  /** Lengths in use at the site; hex without a length is also tried at each of these. */
  lengths?: readonly number[];
  /** Formats in use and of the library: hex without a length is also tried at the length of each that it fits. */
  formats?: readonly Format[];
}
