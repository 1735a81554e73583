/** One specimen: its print to type, whether it is set aside, and its cells. */
import type { CaseSpecimen } from '@rawbits/api';
import { Trash2 } from 'lucide-react';
import { memo, useEffect, useRef, useState } from 'react';
import { CellsOf } from '../../parts/tape/Cells.tsx';
import type { TapeGeometry } from '../../parts/tape/geometry.ts';

interface RowProps {
  row: number;
  specimen: CaseSpecimen;
  top: number;
  height: number;
  left: number;
  geometry: TapeGeometry;
  /** The length of the stack: a shorter read stands at its right. */
  length: number;
  column: number | undefined;
  suspect: string | undefined;
  onChange: (part: Partial<CaseSpecimen>) => void;
  /** A print was being typed for a specimen that somebody changed, or took from this row, meanwhile. */
  onTyped: (specimen: CaseSpecimen, printed: string) => void;
  onRemove: () => void;
  /** Shows what else is known of it. */
  onOpen: () => void;
}

export const SpecimenRow = memo(function SpecimenRow(props: RowProps) {
  const { row, specimen, top, height, left, geometry, length, column, suspect, onChange, onTyped, onRemove, onOpen } =
    props;
  const [print, setPrint] = useState(specimen.printed ?? '');
  // The row shows another specimen once one above it was taken out: what was typed is about the one that it showed.
  const about = useRef(specimen);
  useEffect(() => {
    const was = about.current;
    about.current = specimen;
    const [before, now, typed] = [was.printed ?? '', specimen.printed ?? '', print.trim()];
    if (was.bits === specimen.bits && before === now) return;
    setPrint(now);
    if (typed !== before && typed !== now) onTyped(was, typed);
  }, [specimen, print, onTyped]);
  const commit = () => {
    if (print.trim() !== (specimen.printed ?? '')) onChange({ printed: print.trim() });
  };
  const width = geometry.xOf(length) + geometry.cell.width + 4;
  return (
    <div className="absolute left-0 flex items-center" style={{ top, height, opacity: specimen.setAside ? 0.45 : 1 }}>
      <div className="sticky left-0 z-[5] flex items-center gap-1 bg-base-100 pl-2" style={{ width: left }}>
        <button
          type="button"
          className="min-h-[24px] w-7 cursor-pointer text-right text-[0.85rem] text-ink-2 underline underline-offset-2 hover:text-primary"
          title="What else is known of this card"
          aria-label={`Specimen ${row + 1}: what else is known of it`}
          onClick={onOpen}
        >
          {row + 1}
        </button>
        <input
          data-print={row}
          value={print}
          onChange={(event) => setPrint(event.target.value)}
          onBlur={commit}
          onKeyDown={(event) => {
            if (event.key !== 'Enter') return;
            commit();
            // On the stack as a whole the next card is waited for, and a paste is a read.
            event.currentTarget.closest<HTMLElement>('[role=group]')?.focus({ preventScroll: true });
          }}
          placeholder="print?"
          title={suspect ?? `from ${specimen.source ?? 'somewhere'}`}
          aria-label={`Print of specimen ${row + 1}${suspect ? `: ${suspect}` : ''}`}
          aria-invalid={suspect !== undefined}
          autoComplete="off"
          spellCheck={false}
          className={`input h-[24px]! w-28 px-1.5! font-mono ${suspect ? 'border-signal! text-signal' : ''}`}
        />
        <label className="flex items-center" title="Set aside: kept, but left out">
          <input
            type="checkbox"
            className="checkbox checkbox-xs size-[24px]!"
            checked={specimen.setAside ?? false}
            aria-label={`Set specimen ${row + 1} aside`}
            onChange={(event) => onChange({ setAside: event.target.checked || undefined })}
          />
        </label>
        <button
          type="button"
          className="grid size-[24px] cursor-pointer place-items-center text-ink-2 hover:text-primary"
          aria-label={`Remove specimen ${row + 1}`}
          onClick={onRemove}
        >
          <Trash2 size={13} aria-hidden="true" />
        </button>
      </div>
      <Bits bits={specimen.bits} geometry={geometry} length={length} column={column} width={width} />
    </div>
  );
});

const Bits = memo(function Bits({
  bits,
  geometry,
  length,
  column,
  width,
}: {
  bits: string;
  geometry: TapeGeometry;
  length: number;
  column: number | undefined;
  width: number;
}) {
  const shown = bits.length <= length ? bits.padStart(length, ' ') : bits.slice(bits.length - length);
  const line = { ...geometry.lines[0]!, cellY: 1 };
  const { cell, xOf } = geometry;
  return (
    <svg width={width} height={cell.height + 3} aria-hidden="true" className="block">
      {column !== undefined && (
        <rect x={xOf(column) - 1} y={0} width={cell.width + 2} height={cell.height + 3} className="fill-primary/20" />
      )}
      <CellsOf bits={shown} digit="1" line={line} geometry={geometry} />
      <CellsOf bits={shown} digit="0" line={line} geometry={geometry} />
    </svg>
  );
});
