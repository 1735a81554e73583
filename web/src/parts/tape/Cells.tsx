/**
 * The cells and the ruler: a 1 is filled, a 0 hollow, and both carry their digit. A line is a handful of nodes, however
 * many cells it has: one outline for its ones, one for its zeros, and their digits placed one by one in two texts.
 */
import { memo } from 'react';
import type { TapeGeometry, TapeLine } from './geometry.ts';
import { boundsOf, counted, type Selection } from './selection.ts';

interface CellsProps {
  bits: string;
  geometry: TapeGeometry;
  countFrom: 'first' | 'last';
}

export const Cells = memo(function Cells({ bits, geometry, countFrom }: CellsProps) {
  return geometry.lines.map((line) => (
    <g key={line.from}>
      <CellsOf bits={bits} digit="1" line={line} geometry={geometry} />
      <CellsOf bits={bits} digit="0" line={line} geometry={geometry} />
      <Ruler length={bits.length} line={line} geometry={geometry} countFrom={countFrom} />
    </g>
  ));
});

const positionsIn = (line: TapeLine): number[] =>
  Array.from({ length: line.to - line.from + 1 }, (_, i) => line.from + i);

/** The cells of one digit on one line, with their digits. */
export function CellsOf({
  bits,
  digit,
  line,
  geometry,
}: {
  bits: string;
  digit: '0' | '1';
  line: TapeLine;
  geometry: TapeGeometry;
}) {
  const { cell, xOf } = geometry;
  const here = positionsIn(line).filter((p) => bits[p - 1] === digit);
  if (here.length === 0) return null;
  const font = Math.max(10, Math.min(18, cell.width * 0.6));
  const [w, h] = [cell.width - 2, cell.height - 1];
  const outline = here
    .map(
      (p) =>
        `M${xOf(p) + 3} ${line.cellY + 0.5}h${w - 4}q2 0 2 2v${h - 4}q0 2 -2 2h${4 - w}q-2 0 -2 -2v${4 - h}q0 -2 2 -2z`,
    )
    .join('');
  return (
    <>
      <path
        d={outline}
        strokeWidth={1.2}
        className={`stroke-base-content ${digit === '1' ? 'fill-base-content' : 'fill-base-100'}`}
      />
      <text
        x={here.map((p) => xOf(p) + cell.width / 2 - font * 0.3).join(' ')}
        y={line.cellY + cell.height / 2 + font * 0.36}
        fontSize={font}
        className={`font-mono ${digit === '1' ? 'fill-base-100 font-bold' : 'fill-base-content'}`}
      >
        {digit.repeat(here.length)}
      </text>
    </>
  );
}

function Ruler({
  length,
  line,
  geometry,
  countFrom,
}: {
  length: number;
  line: TapeLine;
  geometry: TapeGeometry;
  countFrom: 'first' | 'last';
}) {
  const { cell, group, xOf } = geometry;
  const close = length - (length - ((length - 1) % group)) < 2 && length > 1 && (length - 1) % group !== 0;
  return positionsIn(line)
    .filter((p) => p === length || ((p - 1) % group === 0 && !(close && p === length - 1 && cell.width < 20)))
    .map((p) => (
      <text
        key={p}
        x={xOf(p) + cell.width / 2}
        y={line.rulerY}
        textAnchor="middle"
        fontSize={11}
        className="fill-ink-2"
      >
        {counted(p, length, countFrom)}
      </text>
    ));
}

/** A frame around the selected cells of each line. */
export function SelectionFrame({ geometry, selection }: { geometry: TapeGeometry; selection: Selection | null }) {
  if (!selection) return null;
  const { cell, lines, xOf } = geometry;
  const [first, last] = boundsOf(selection);
  return lines
    .filter((line) => line.from <= last && line.to >= first)
    .map((line) => {
      const [from, to] = [Math.max(first, line.from), Math.min(last, line.to)];
      return (
        <rect
          key={line.from}
          x={xOf(from) - 1}
          y={line.cellY - 2.5}
          width={xOf(to) + cell.width - xOf(from) + 2}
          height={cell.height + 5}
          rx={3}
          strokeWidth={2.5}
          className="fill-primary/15 stroke-primary"
        />
      );
    });
}
