/**
 * The verdict under the stack: a heavy line where it is proven what turns a bit, a thin one where it is presumed, a dashed one in the
 * signal colour where it is open; and the layout laid over it, as brackets.
 */
import type { GroupFinding } from '@rawbits/core/identify';
import type { TapeGeometry } from '../../parts/tape/geometry.ts';
import { Brackets } from '../../parts/tape/marks.tsx';
import { verdictRuns } from './columns.ts';

export const LOOK = {
  proven: { className: 'stroke-primary', strokeWidth: 4, dash: undefined },
  presumed: { className: 'stroke-ink-2', strokeWidth: 1.5, dash: undefined },
  open: { className: 'stroke-signal', strokeWidth: 2.5, dash: '4 3' },
} as const;
const NAME = { proven: 'fill-primary font-bold', presumed: 'fill-ink-2', open: 'fill-signal font-bold' } as const;

function bracketsTopOf({ cell, lines }: TapeGeometry): number {
  const [line] = lines as [TapeGeometry['lines'][number]];
  return Math.min(...line.segments.map((s) => s.y), line.cellY + cell.height);
}

/** How high the strip is, with the brackets of the layout. */
export const verdictHeight = (geometry: TapeGeometry): number =>
  26 + Math.max(0, geometry.height - bracketsTopOf(geometry));

export function Verdicts({
  geometry,
  finding,
  left,
  column,
}: {
  geometry: TapeGeometry;
  finding: GroupFinding;
  left: number;
  column: number | undefined;
}) {
  const { cell, xOf } = geometry;
  const [line] = geometry.lines as [TapeGeometry['lines'][number]];
  return (
    <svg
      width={left + xOf(line.to) + cell.width + 8}
      height={verdictHeight(geometry)}
      aria-hidden="true"
      className="block"
      data-testid="verdicts"
    >
      <g transform={`translate(${left} 0)`}>
        {verdictRuns(finding.bits).map(({ from, to, standing }) => {
          const [x1, x2] = [xOf(from) + 1, xOf(to) + cell.width - 1];
          const look = LOOK[standing];
          return (
            <g key={from}>
              <line
                x1={x1}
                x2={x2}
                y1={4}
                y2={4}
                className={look.className}
                strokeWidth={look.strokeWidth}
                strokeDasharray={look.dash}
              />
              {x2 - x1 > standing.length * 6.4 && (
                <text x={(x1 + x2) / 2} y={18} textAnchor="middle" fontSize={11} className={NAME[standing]}>
                  {standing}
                </text>
              )}
            </g>
          );
        })}
        {column !== undefined && (
          <rect x={xOf(column) - 1} y={0} width={cell.width + 2} height={8} className="fill-primary/30" />
        )}
        <g transform={`translate(0 ${24 - bracketsTopOf(geometry)})`}>
          <Brackets geometry={geometry} />
        </g>
      </g>
    </svg>
  );
}
