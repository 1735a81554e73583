/**
 * A controller as a step: pulses come over its line, it cuts reads out of them, decides by what it holds, and lets the
 * door's relay go for a while. What it holds is not part of the step's state: it is a million items, and changes by loads.
 */
import type { Bits } from '../bits/index.ts';
import { type LinePulses, receivePulses, type Step } from '../line/index.ts';
import type { Decision } from './decide.ts';

export interface ControllerState {
  /** What it makes of a read at an instant. */
  decide(bits: Bits, atMs: number): Decision;
  /** How long a door stays released, in milliseconds. */
  releaseMs: number;
  /** Until when the relay is energised; null while it is not. */
  releasedUntil: number | null;
}

export type ControllerOutput = { read: Bits; decision: Decision } | { relay: 'released' | 'locked' };

/** How long a door is released where nothing else is set (common practice, no source). */
export const RELEASE_MS = 5000;

export const controllerStep: Step<ControllerState, LinePulses, ControllerOutput> = (state, now, input) => {
  const out: ControllerOutput[] = [];
  let { releasedUntil } = state;
  if (releasedUntil !== null && releasedUntil <= now) {
    releasedUntil = null;
    out.push({ relay: 'locked' });
  }
  for (const { bits } of input ? receivePulses(input.pulses).reads : []) {
    const decision = state.decide(bits, now);
    out.push({ read: bits, decision });
    if (decision.outcome !== 'opened') continue;
    if (releasedUntil === null) out.push({ relay: 'released' });
    releasedUntil = now + state.releaseMs;
  }
  return { state: { ...state, releasedUntil }, out, ...(releasedUntil !== null && { wakeAt: releasedUntil }) };
};
