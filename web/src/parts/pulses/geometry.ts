/** Where the pulses of a recorded line stand in a drawing of it: time runs to the right, a wire a lane, low is down. */
import type { Pulse } from '@rawbits/core/line';

export interface Lane {
  wire: 0 | 1;
  /** Corners of the line of the wire: `M0,8 H40 V24 H42 V8 H1000`. */
  path: string;
}
export interface PulseDrawing {
  lanes: Lane[];
  /** Marks along the time: where, and how many milliseconds since the first pulse. */
  marks: { x: number; ms: number }[];
}

export const LANE_HEIGHT = 22;
const [HIGH, LOW] = [5, 17];
/** What is narrower is not seen. */
const NARROWEST = 1.5;
const MARGIN_US = 200;
const MARKS = 6;

/** A step of 1, 2 or 5 times a power of ten, so that there are about as many marks as asked for. */
function stepFor(span: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(span, 1e-6) / MARKS));
  return [1, 2, 5, 10].map((factor) => factor * power).find((step) => span / step <= MARKS)!;
}

/** The drawing in a box of this width; costs the pulses. */
export function drawPulses(pulses: readonly Pulse[], width: number): PulseDrawing {
  const first = pulses[0]?.atUs ?? 0;
  const last = pulses.at(-1);
  const span = (last ? last.atUs + last.widthUs - first : 0) + 2 * MARGIN_US;
  const x = (atUs: number) => Math.round(((atUs - first + MARGIN_US) / span) * width * 10) / 10;
  const lanes = ([0, 1] as const).map((wire): Lane => {
    const corners = pulses
      .filter((pulse) => pulse.wire === wire)
      .map(({ atUs, widthUs }) => {
        const from = x(atUs);
        const to = Math.max(x(atUs + widthUs), Math.round((from + NARROWEST) * 10) / 10);
        return `H${from} V${LOW} H${to} V${HIGH}`;
      });
    return { wire, path: ['M0', `,${HIGH} `, ...corners.join(' '), ` H${width}`].join('') };
  });
  const ms = (span - 2 * MARGIN_US) / 1000;
  const step = stepFor(ms);
  const count = Math.floor(ms / step + 1e-9);
  const marks = Array.from({ length: count + 1 }, (_, i) => {
    const at = Math.round(i * step * 1000) / 1000;
    return { x: x(first + at * 1000), ms: at };
  });
  return { lanes, marks };
}
