/** The numbers of a box as a strip: proven full, settled hatched, likely framed, open dashed; what was read carries a tick. */
import { type KeyboardEvent, type PointerEvent, useId, useMemo } from 'react';
import { useElementWidth } from '../../platform/hooks/useElementWidth.ts';
import { cellAfter, cellAt, layOutStrip, type StripCard } from './geometry.ts';
import { Hatch, LOOKS } from './looks.tsx';

interface Props {
  cards: readonly StripCard[];
  label: string;
  /** The cell under the cursor, and what is to be said of it. */
  cursor: number;
  onCursor: (cell: number) => void;
  inWords: (from: number, to: number) => string;
}

export function Strip({ cards, label, cursor, onCursor, inWords }: Props) {
  const [box, width] = useElementWidth<HTMLDivElement>();
  const hatch = useId();
  const geometry = useMemo(() => layOutStrip(cards, width || 900), [cards, width]);
  const { cells, cellWidth, rowHeight, rows } = geometry;
  const at = Math.min(cursor, cells.length - 1);
  const cell = cells[at]!;
  const point = (event: PointerEvent<HTMLDivElement>) => {
    const { left, top } = event.currentTarget.getBoundingClientRect();
    const found = cellAt(geometry, event.clientX - left, event.clientY - top);
    if (found !== undefined && found !== at) onCursor(found);
  };
  const press = (event: KeyboardEvent<HTMLDivElement>) => {
    const next = cellAfter(event.key, at, cells.length);
    if (next === undefined) return;
    event.preventDefault();
    onCursor(next);
  };
  return (
    <div ref={box} className="overflow-x-auto">
      <div
        tabIndex={0}
        role="slider"
        aria-label={label}
        aria-valuemin={1}
        aria-valuemax={cells.length}
        aria-valuenow={at + 1}
        aria-valuetext={inWords(cell.from, cell.to)}
        onKeyDown={press}
        onPointerMove={point}
        onPointerDown={point}
        className="w-fit cursor-crosshair"
      >
        <svg width={geometry.width} height={geometry.height + 2} className="block" aria-hidden="true">
          <defs>
            <Hatch id={hatch} />
          </defs>
          {rows.map(({ number, y }) => (
            <text key={number} x={0} y={y + rowHeight - 6} className="fill-ink-2 font-mono" fontSize={13}>
              {number}
            </text>
          ))}
          {cells.map(({ from, x, y, standing, isRead }) => (
            <g key={from}>
              <rect
                x={x + 0.5}
                y={y + 6.5}
                width={cellWidth - 1.5}
                height={rowHeight - 9}
                strokeWidth={1}
                {...LOOKS[standing](hatch)}
              />
              {isRead && (
                <line
                  x1={x + cellWidth / 2}
                  x2={x + cellWidth / 2}
                  y1={y}
                  y2={y + 6}
                  className="stroke-base-content"
                  strokeWidth={2}
                />
              )}
            </g>
          ))}
          <rect
            x={cell.x - 1}
            y={cell.y + 4}
            width={cellWidth + 1}
            height={rowHeight - 4}
            fill="none"
            className="stroke-base-content"
            strokeWidth={1.5}
          />
        </svg>
      </div>
    </div>
  );
}
