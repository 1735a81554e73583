/**
 * The Wiegand interface: two wires, DATA0 and DATA1, idle high; a low pulse on one of them is a 0 or a 1, the first
 * bit sent first. Pulse width 20 to 100 µs, spacing 200 µs to 20 ms (SIA AC-01-1996.10). A read ends when no pulse
 * has come for a while, commonly 50 ms (common practice, no source).
 */
import { Bits, MAX_BITS } from '../bits/index.ts';
import { fail } from '../failure/index.ts';

/** One low pulse: which wire, when it fell, and for how long. */
export interface Pulse {
  atUs: number;
  wire: 0 | 1;
  widthUs: number;
}

export interface PulseTiming {
  /** 20 to 100. */
  widthUs: number;
  /** From one falling edge to the next: 200 to 20,000. */
  spacingUs: number;
}

export const PULSE_WIDTH_US = { least: 20, most: 100 } as const;
export const PULSE_SPACING_US = { least: 200, most: 20_000 } as const;
export const COMMON_TIMING: PulseTiming = { widthUs: 50, spacingUs: 1000 };

/** The pulses of a read, beginning at `startUs`. Throws `pulse-width` or `pulse-spacing` outside the standard. */
export function pulsesOf(bits: Bits, timing: PulseTiming = COMMON_TIMING, startUs = 0): Pulse[] {
  const { widthUs, spacingUs } = timing;
  if (widthUs < PULSE_WIDTH_US.least || widthUs > PULSE_WIDTH_US.most)
    fail('pulse-width', `A pulse is 20 to 100 µs wide, not ${widthUs}.`);
  if (spacingUs < PULSE_SPACING_US.least || spacingUs > PULSE_SPACING_US.most)
    fail('pulse-spacing', `Pulses are 200 µs to 20 ms apart, not ${spacingUs} µs.`);
  return Array.from({ length: bits.length }, (_, i) => ({
    atUs: startUs + i * spacingUs,
    wire: bits.at(i + 1),
    widthUs,
  }));
}

export interface LineFault {
  code: 'pulse-width' | 'both-wires' | 'too-long';
  atUs: number;
  message: string;
}

export interface Received {
  reads: { bits: Bits; startUs: number; endUs: number }[];
  faults: LineFault[];
}

/**
 * What a receiver makes of the pulses of both wires. A gap of `endOfReadUs` without a pulse ends a read. A pulse of a
 * width outside the standard is left out, a pulse on both wires at once spoils its read; both are told as faults.
 */
export function receivePulses(pulses: readonly Pulse[], endOfReadUs = 50_000): Received {
  const sorted = [...pulses].sort((a, b) => a.atUs - b.atUs);
  const received: Received = { reads: [], faults: [] };
  let current: Pulse[] = [];
  let spoiled = false;
  const finish = () => {
    if (current.length > MAX_BITS)
      received.faults.push({
        code: 'too-long',
        atUs: current[0]!.atUs,
        message: `${current.length} pulses came without a pause; a read has at most ${MAX_BITS} bits.`,
      });
    else if (current.length > 0 && !spoiled) {
      const own = current;
      const bits = Bits.build(own.length, (p) => own[p - 1]!.wire);
      received.reads.push({ bits, startUs: own[0]!.atUs, endUs: own.at(-1)!.atUs + own.at(-1)!.widthUs });
    }
    current = [];
    spoiled = false;
  };
  for (const pulse of sorted) {
    const last = current.at(-1);
    if (last && pulse.atUs - last.atUs >= endOfReadUs) finish();
    if (pulse.widthUs < PULSE_WIDTH_US.least || pulse.widthUs > PULSE_WIDTH_US.most) {
      received.faults.push({
        code: 'pulse-width',
        atUs: pulse.atUs,
        message: `A pulse of ${pulse.widthUs} µs on DATA${pulse.wire} was left out.`,
      });
      continue;
    }
    const previous = current.at(-1);
    if (previous && previous.wire !== pulse.wire && pulse.atUs < previous.atUs + previous.widthUs) {
      received.faults.push({
        code: 'both-wires',
        atUs: pulse.atUs,
        message: 'Both wires were low at once; the read is spoiled.',
      });
      spoiled = true;
      continue;
    }
    current.push(pulse);
  }
  finish();
  return received;
}
