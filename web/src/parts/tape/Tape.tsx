/** The tape: draws what `geometry` laid out and lets bits be selected and copied. One tab stop. */
import { Bits } from '@rawbits/core/bits';
import { type KeyboardEvent, type PointerEvent, useId, useMemo, useRef, useState } from 'react';
import { useElementWidth } from '../../platform/hooks/useElementWidth.ts';
import { Cells, SelectionFrame } from './Cells.tsx';
import { layOutTape, type TapeSpan, type TapeThread } from './geometry.ts';
import { Brackets, Threads } from './marks.tsx';
import { tapeInWords } from './ofFormat.ts';
import { SelectionBar } from './SelectionBar.tsx';
import { afterKey, boundsOf, type Selection } from './selection.ts';

export interface TapeProps {
  /** Binary digits in the order shown. */
  bits: string;
  label: string;
  spans?: TapeSpan[];
  threads?: TapeThread[];
  countFrom?: 'first' | 'last';
  largestCell?: number;
  /** Without the bar that shows and copies the selection. */
  bare?: boolean;
  /** The selection, where whoever uses the tape keeps it. */
  selected?: Selection | null;
  onSelect?: (selection: Selection | null) => void;
  /** Keys of whoever uses the tape, before the tape's own; true when it was one. */
  onKey?: (event: KeyboardEvent) => boolean;
}

const NONE: never[] = [];
const PADDING = 2;

export function Tape({
  bits,
  label,
  spans = NONE,
  threads = NONE,
  countFrom = 'first',
  largestCell,
  bare = false,
  selected,
  onSelect,
  onKey,
}: TapeProps) {
  const [box, width] = useElementWidth<HTMLDivElement>();
  const [own, setOwn] = useState<Selection | null>(null);
  const selection = onSelect ? (selected ?? null) : own;
  const setSelection = onSelect ?? setOwn;
  const dragging = useRef(false);
  const drawn = useRef<SVGSVGElement>(null);
  const words = useId();
  const geometry = useMemo(
    () => layOutTape({ length: bits.length, width: Math.max(width - 2 * PADDING, 200), spans, threads, largestCell }),
    [bits.length, width, spans, threads, largestCell],
  );
  const perLine = geometry.lines[0]!.to;
  const valid = selection && Math.max(selection.anchor, selection.focus) <= bits.length ? selection : null;

  const positionAt = (event: PointerEvent): number | undefined => {
    const origin = drawn.current!.getBoundingClientRect();
    return geometry.positionAt(event.clientX - origin.left - PADDING, event.clientY - origin.top - PADDING);
  };
  const onPointerDown = (event: PointerEvent) => {
    const position = positionAt(event);
    if (position === undefined) return;
    dragging.current = true;
    setSelection({ anchor: event.shiftKey && valid ? valid.anchor : position, focus: position });
  };
  const onPointerMove = (event: PointerEvent) => {
    const position = dragging.current ? positionAt(event) : undefined;
    if (position !== undefined && selection && position !== selection.focus)
      setSelection({ ...selection, focus: position });
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (onKey?.(event)) {
      event.preventDefault();
      event.stopPropagation();
      return;
    }
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'c') {
      const [from, to] = valid ? boundsOf(valid) : [1, bits.length];
      void navigator.clipboard?.writeText(bits.slice(from - 1, to));
      return;
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const next = afterKey(valid, event.key, event.shiftKey, bits.length, perLine);
    if (next === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    setSelection(next);
  };

  return (
    <div ref={box} className="min-w-0">
      {/* biome-ignore lint/a11y/useSemanticElements: a tape is no fieldset */}
      <div
        role="group"
        aria-label={label}
        aria-describedby={words}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the whole tape is one tab stop and takes arrow keys
        tabIndex={0}
        data-tape={bits}
        onKeyDown={onKeyDown}
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={() => {
          dragging.current = false;
        }}
        onPointerLeave={() => {
          dragging.current = false;
        }}
        className="select-none"
      >
        <svg
          ref={drawn}
          width={Math.max(width, 200)}
          height={geometry.height + 2 * PADDING}
          aria-hidden="true"
          className="block"
        >
          <g transform={`translate(${PADDING} ${PADDING})`}>
            <Cells bits={bits} geometry={geometry} countFrom={countFrom} />
            <SelectionFrame geometry={geometry} selection={valid} />
            <Brackets geometry={geometry} />
            <Threads geometry={geometry} />
          </g>
        </svg>
      </div>
      <p id={words} className="sr-only">
        {tapeInWords(bits, { spans, threads })}
      </p>
      {!bare && <SelectionBar bits={Bits.fromBinary(bits)} selection={valid} countFrom={countFrom} />}
    </div>
  );
}
