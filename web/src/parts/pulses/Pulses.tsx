/** The pulses of a recorded line, a lane a wire, with the same in words. */
import { pulsesInWords } from '@rawbits/core/intake';
import type { Pulse } from '@rawbits/core/line';
import { useMemo } from 'react';
import { useElementWidth } from '../../platform/hooks/useElementWidth.ts';
import { drawPulses, LANE_HEIGHT } from './geometry.ts';

const NAME_WIDTH = 64;

export function Pulses({ pulses }: { pulses: readonly Pulse[] }) {
  const [ref, whole] = useElementWidth<HTMLDivElement>();
  const width = Math.max(100, whole - NAME_WIDTH);
  const { lanes, marks } = useMemo(() => drawPulses(pulses, width), [pulses, width]);
  return (
    <figure className="panel shrink-0 px-4 py-2" aria-label="Pulses of the line">
      <div ref={ref}>
        <svg
          width={width + NAME_WIDTH}
          height={2 * LANE_HEIGHT + 16}
          role="img"
          aria-label={pulsesInWords(pulses)}
          className="block"
        >
          {lanes.map(({ wire, path }) => (
            <g key={wire} transform={`translate(0 ${wire * LANE_HEIGHT})`}>
              <text x={0} y={15} className="fill-base-content font-mono text-[12px]">
                DATA{wire}
              </text>
              <path
                d={path}
                transform={`translate(${NAME_WIDTH} 0)`}
                className="fill-none stroke-base-content"
                strokeWidth={1.2}
              />
            </g>
          ))}
          {marks.map(({ x, ms }) => (
            <g key={ms} transform={`translate(${NAME_WIDTH + x} ${2 * LANE_HEIGHT})`}>
              <path d="M0,0 V4" className="stroke-ink-2" />
              <text y={14} textAnchor={x > width - 24 ? 'end' : 'middle'} className="fill-ink-2 text-[11px]">
                {ms} ms
              </text>
            </g>
          ))}
        </svg>
      </div>
      <figcaption className="text-ink-2">
        As it was recorded: {pulsesInWords(pulses)}. A pulse on DATA0 is a 0, one on DATA1 a 1.
      </figcaption>
    </figure>
  );
}
