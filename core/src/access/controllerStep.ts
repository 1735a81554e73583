/**
 * A controller as a step: pulses come over its lines, it cuts reads out of them, decides by what it holds, and lets the
 * relay of the line's door go for a while. What it holds is not part of the step's state: it is a million items, and changes
 * by loads.
 */
import type { Bits } from '../bits/index.ts';
import { type LinePulses, receivePulses, type Step } from '../line/index.ts';
import type { Decision } from './decide.ts';

export interface ControllerState {
  /** What it makes of a read at an instant that came over a line, where lines have names. */
  decide(bits: Bits, atMs: number, line: string | undefined): Decision;
  /** How long a door stays released, in milliseconds. */
  releaseMs: number;
  /** Until when the relay of each line is energised; those that are not have no entry. */
  released: Readonly<Record<string, number>>;
}

export type ControllerOutput = { read: Bits; decision: Decision } | { relay: 'released' | 'locked'; line: string };

/** How long a door is released where nothing else is set (common practice, no source). */
export const RELEASE_MS = 5000;

export const controllerStep: Step<ControllerState, LinePulses, ControllerOutput> = (state, now, input) => {
  const out: ControllerOutput[] = [];
  const released: Record<string, number> = {};
  for (const [line, until] of Object.entries(state.released)) {
    if (until > now) released[line] = until;
    else out.push({ relay: 'locked', line });
  }
  const line = input?.line ?? '';
  for (const { bits } of input ? receivePulses(input.pulses).reads : []) {
    const decision = state.decide(bits, now, input?.line);
    out.push({ read: bits, decision });
    if (decision.outcome !== 'opened') continue;
    if (released[line] === undefined) out.push({ relay: 'released', line });
    released[line] = now + state.releaseMs;
  }
  const next = Math.min(...Object.values(released));
  return { state: { ...state, released }, out, ...(Number.isFinite(next) && { wakeAt: next }) };
};
