/**
 * A device as a pure step: what it is, the time and what comes in give what it is then and what it sends on. Time is
 * milliseconds since 1970 and passed in; a device that has something to do later says when it wants to be woken.
 */
import type { Bits } from '../bits/index.ts';
import { type Pulse, type PulseTiming, pulsesOf } from './wiegand.ts';

export interface Stepped<State, Output> {
  state: State;
  out: readonly Output[];
  /** When it wants to be woken; nothing where it waits for input only. */
  wakeAt?: number;
}

/** `input` is undefined where the device is woken. */
export type Step<State, Input, Output> = (
  state: State,
  now: number,
  input: Input | undefined,
) => Stepped<State, Output>;

export interface ReaderState {
  timing: PulseTiming;
  /** What the line is called at its other end. */
  line?: string;
}
/** A credential in the field, as the bits that it makes the reader deliver. */
export interface HeldBits {
  held: Bits;
}
/** What goes over the two data lines. */
export interface LinePulses {
  pulses: readonly Pulse[];
  /** Over which line they come, to a device at which several end. */
  line?: string;
}

/** A reader with a Wiegand output: what is held to it goes out as pulses, at once. */
export const wiegandReaderStep: Step<ReaderState, HeldBits, LinePulses> = (state, _now, input) => ({
  state,
  out: input
    ? [{ pulses: pulsesOf(input.held, state.timing), ...(state.line !== undefined && { line: state.line }) }]
    : [],
});
