/** The cells and the ruler: a 1 is filled, a 0 hollow, and both carry their digit. */
import { memo } from 'react';
import type { TapeGeometry } from './geometry.ts';
import { boundsOf, counted, type Selection } from './selection.ts';

interface CellsProps {
  bits: string;
  geometry: TapeGeometry;
  selection: Selection | null;
  countFrom: 'first' | 'last';
}

export const Cells = memo(function Cells({ bits, geometry, selection, countFrom }: CellsProps) {
  const { cell, group, lines, xOf } = geometry;
  const [from, to] = selection ? boundsOf(selection) : [0, -1];
  const font = Math.max(10, Math.min(18, cell.width * 0.6));
  return lines.map((line) => (
    <g key={line.from}>
      {Array.from({ length: line.to - line.from + 1 }, (_, i) => {
        const position = line.from + i;
        const one = bits[position - 1] === '1';
        const x = xOf(position);
        const numbered = (position - 1) % group === 0 || position === bits.length;
        return (
          <g key={position} data-position={position}>
            <rect
              x={x + 1}
              y={line.cellY + 0.5}
              width={cell.width - 2}
              height={cell.height - 1}
              rx={2}
              className={one ? 'fill-base-content stroke-base-content' : 'fill-base-100 stroke-base-content'}
              strokeWidth={1.2}
            />
            {position >= from && position <= to && (
              <rect
                x={x - 0.5}
                y={line.cellY - 2}
                width={cell.width + 1}
                height={cell.height + 4}
                rx={3}
                className="fill-none stroke-primary"
                strokeWidth={2.5}
              />
            )}
            <text
              x={x + cell.width / 2}
              y={line.cellY + cell.height / 2 + font * 0.36}
              textAnchor="middle"
              fontSize={font}
              className={`font-mono ${one ? 'fill-base-100 font-bold' : 'fill-base-content'}`}
            >
              {one ? 1 : 0}
            </text>
            {numbered && (
              <text x={x + cell.width / 2} y={line.rulerY} textAnchor="middle" fontSize={11} className="fill-ink-2">
                {counted(position, bits.length, countFrom)}
              </text>
            )}
          </g>
        );
      })}
    </g>
  ));
});
