/**
 * What a reader at a door makes of a proximity tag: it listens at one rate and modulation, looks for the frame that it
 * knows, and sends on what it found. A tag that is set up otherwise is not there to it.
 */

import { findCarrier } from './carrier.ts';
import { type Fsk, isFsk, unshifted } from './fsk.ts';
import { demodulate, type Modulation, type Signal } from './modulation.ts';
import { findTag } from './tag64.ts';

export interface Listening {
  rate: number;
  modulation: Modulation | Fsk;
}
export const IDENTIFICATION: Listening = { rate: 64, modulation: 'manchester' };
export const CARRIER: Listening = { rate: 50, modulation: 'fsk2a' };

/** The bits that a reader takes from a signal; undefined where it hears nothing of its kind. */
export function bitsHeard(signal: Signal, { rate, modulation }: Listening): string | undefined {
  if ('levels' in signal) return isFsk(modulation) ? unshifted(signal.levels, modulation, rate) : undefined;
  return isFsk(modulation) ? undefined : demodulate(signal, modulation, rate);
}

/** Of an identification tag: its forty bits. */
export function tagHeard(signal: Signal, listening: Listening = IDENTIFICATION): bigint | undefined {
  const bits = bitsHeard(signal, listening);
  return bits === undefined ? undefined : findTag(bits)?.data;
}

/** Of a carrier: its Wiegand string. */
export function stringHeard(signal: Signal, listening: Listening = CARRIER): string | undefined {
  const bits = bitsHeard(signal, listening);
  return bits === undefined ? undefined : findCarrier(bits);
}
