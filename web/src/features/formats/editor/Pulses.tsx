/** The bits as pulses on the two lines, DATA0 and DATA1, both idle high. */
import type { Bits } from '@rawbits/core/bits';
import { pulsesOf } from '@rawbits/core/line';

const WIDTH = 480;

export function Pulses({ bits }: { bits: Bits }) {
  const pulses = pulsesOf(bits);
  const last = pulses.at(-1)!;
  const endUs = last.atUs + last.widthUs;
  const x = (us: number) => 26 + (us / endUs) * (WIDTH - 30);
  const path = (line: 0 | 1, top: number) =>
    `M26 ${top}${pulses
      .filter((pulse) => pulse.wire === line)
      .map(({ atUs, widthUs }) => `H${x(atUs).toFixed(1)}v9H${Math.max(x(atUs + widthUs), x(atUs) + 1).toFixed(1)}v-9`)
      .join('')}H${WIDTH}`;
  const ones = bits.count();
  return (
    <figure>
      <svg viewBox={`0 0 ${WIDTH} 42`} className="block max-h-12 w-full" aria-hidden="true">
        <text x={0} y={14} fontSize={10} className="fill-ink-2">
          D0
        </text>
        <text x={0} y={36} fontSize={10} className="fill-ink-2">
          D1
        </text>
        <path d={path(0, 6)} className="fill-none stroke-base-content" strokeWidth={1} />
        <path d={path(1, 28)} className="fill-none stroke-base-content" strokeWidth={1} />
      </svg>
      <figcaption className="text-ink-2">
        {pulses.length} pulses, {bits.length - ones} on D0 and {ones} on D1, {(endUs / 1000).toFixed(1)} ms
      </figcaption>
    </figure>
  );
}
