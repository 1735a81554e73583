/**
 * The inside of a file as a map of bytes: brackets below the cells as on the tape, told by shape before colour. Fields are
 * dragged along, lengthened at their right end, or moved with the arrow keys (Shift: longer and shorter).
 */

import type { Content, Field } from '@rawbits/core/plan';
import { type KeyboardEvent, type PointerEvent, useRef } from 'react';
import { ByteLegend } from './ByteLegend.tsx';
import { type Bracket, bracketsIn, fieldWords, moved, ROW_BYTES, resized, rowsOf } from './geometry.ts';

const CELL = 26;
const CELL_HEIGHT = 20;
const ROW = 52;
const LEFT = 38;

interface Props {
  fields: Field[];
  size: number;
  chosen: number | undefined;
  onChoose: (index: number | undefined) => void;
  /** Without it the map is only looked at. */
  onChange?: (fields: Field[]) => void;
  /** What stands in the bytes, in hex; dots without it. */
  bytes?: string;
}

interface Drag {
  index: number;
  /** Where it was taken hold of. */
  from: number;
  fields: Field[];
  resizes: boolean;
}

const byteAt = (event: PointerEvent): number | undefined => {
  const cell = document.elementFromPoint(event.clientX, event.clientY)?.closest('[data-byte]');
  return cell ? Number(cell.getAttribute('data-byte')) : undefined;
};

export function ByteMap({ fields, size, chosen, onChoose, onChange, bytes }: Props) {
  const drag = useRef<Drag | undefined>(undefined);
  const rows = rowsOf(fields, size);
  const take = (event: PointerEvent, index: number, from: number, resizes: boolean) => {
    onChoose(index);
    if (!onChange) return;
    drag.current = { index, from, fields, resizes };
    (event.currentTarget as Element).closest('svg')?.setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent) => {
    const { current } = drag;
    const at = current && byteAt(event);
    if (!current || at === undefined) return;
    const change = current.resizes ? resized : moved;
    onChange?.(change(current.fields, current.index, at - current.from));
  };
  const press = (event: KeyboardEvent, index: number) => {
    const step = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -ROW_BYTES, ArrowDown: ROW_BYTES }[event.key];
    if (step === undefined || !onChange) return;
    event.preventDefault();
    onChange(event.shiftKey ? resized(fields, index, step) : moved(fields, index, step));
  };
  return (
    <>
      <svg
        width={LEFT + ROW_BYTES * CELL + 4}
        height={rows.length * ROW + 4}
        aria-label={`Map of the ${size} bytes`}
        className="block touch-none select-none"
        onPointerMove={move}
        onPointerUp={() => (drag.current = undefined)}
      >
        <defs>
          <pattern id="byte-over" width="6" height="6" patternUnits="userSpaceOnUse">
            <path d="M0 6 L6 0" className="stroke-signal" strokeWidth="2" />
          </pattern>
        </defs>
        {rows.map((row, i) => (
          <g key={row[0]!.at} transform={`translate(0 ${i * ROW + 2})`}>
            <text x={LEFT - 6} y={14} textAnchor="end" className="fill-ink-2 font-mono text-[0.85rem]">
              {row[0]!.at}
            </text>
            {row.map(({ at, of }, column) => {
              const x = LEFT + column * CELL;
              return (
                <g
                  key={at}
                  data-byte={at}
                  className={typeof of === 'number' && onChange ? 'cursor-grab' : undefined}
                  onPointerDown={(event) => typeof of === 'number' && take(event, of, at, false)}
                >
                  <rect
                    x={x}
                    y={0}
                    width={CELL - 2}
                    height={CELL_HEIGHT}
                    className={cellLook(of, chosen)}
                    strokeDasharray={of === 'free' ? '2 3' : undefined}
                  />
                  {of === 'over' && <rect x={x} y={0} width={CELL - 2} height={CELL_HEIGHT} fill="url(#byte-over)" />}
                  <text
                    x={x + CELL / 2 - 1}
                    y={14}
                    textAnchor="middle"
                    className="fill-base-content font-mono text-[0.85rem]"
                  >
                    {of === 'free' || of === 'over' ? '' : (bytes?.slice(2 * at, 2 * at + 2) ?? '··')}
                  </text>
                </g>
              );
            })}
            {bracketsIn(fields, i).map((bracket) => (
              <BracketDrawn
                key={bracket.field}
                bracket={bracket}
                field={fields[bracket.field]!}
                isChosen={bracket.field === chosen}
                words={fieldWords(fields, bracket.field)}
                onTake={(event) => take(event, bracket.field, ROW_BYTES * i + bracket.from, false)}
                onEnd={onChange && ((event) => take(event, bracket.field, ROW_BYTES * i + bracket.to - 1, true))}
                onKeyDown={(event) => press(event, bracket.field)}
                onFocus={() => onChoose(bracket.field)}
              />
            ))}
          </g>
        ))}
      </svg>
      <ByteLegend />
    </>
  );
}

const cellLook = (of: number | 'free' | 'over', chosen: number | undefined): string => {
  if (of === 'over') return 'fill-base-100 stroke-signal';
  if (of === 'free') return 'fill-base-200 stroke-base-300';
  return of === chosen ? 'fill-chosen stroke-primary' : 'fill-base-100 stroke-ink-2';
};

interface BracketProps {
  bracket: Bracket;
  field: Field;
  isChosen: boolean;
  words: string;
  onTake: (event: PointerEvent) => void;
  onEnd?: (event: PointerEvent) => void;
  onKeyDown: (event: KeyboardEvent) => void;
  onFocus: () => void;
}

/** Fixed bytes dots, a check a ring, bits one heavy rule, a wrapped key a double rule, all else a thin one. */
const RULE: Record<Content['is'], { width: number; dash?: string }> = {
  fixed: { width: 3, dash: '0.1 6' },
  check: { width: 1.6, dash: '6 3' },
  bits: { width: 3.5 },
  number: { width: 3.5 },
  counter: { width: 3.5, dash: '8 3' },
  text: { width: 1.6 },
  day: { width: 1.6 },
  wrapped: { width: 1.6 },
};

function BracketDrawn({ bracket, field, isChosen, words, onTake, onEnd, onKeyDown, onFocus }: BracketProps) {
  const { from, to, begins, ends } = bracket;
  const [a, b] = [LEFT + from * CELL + 1, LEFT + to * CELL - 3];
  const y = CELL_HEIGHT + 7;
  const rule = RULE[field.content.is];
  const fits = Math.max(1, Math.floor((b - a + 8) / 7));
  const label = field.name.length > fits ? `${field.name.slice(0, Math.max(1, fits - 1))}…` : field.name;
  return (
    // biome-ignore lint/a11y/useSemanticElements: SVG has no button of its own.
    <g
      role="button"
      tabIndex={begins ? 0 : -1}
      aria-label={words}
      aria-pressed={isChosen}
      className={`cursor-grab ${isChosen ? 'stroke-primary' : 'stroke-base-content'}`}
      onPointerDown={onTake}
      onKeyDown={onKeyDown}
      onFocus={onFocus}
    >
      <title>{words}</title>
      <path
        d={`M${a} ${begins ? y - 5 : y} V${y} H${b}${ends ? ` V${y - 5}` : ''}`}
        className="fill-none"
        strokeWidth={rule.width}
        strokeDasharray={rule.dash}
        strokeLinecap={rule.dash?.startsWith('0.1') ? 'round' : undefined}
      />
      {field.content.is === 'wrapped' && <path d={`M${a} ${y + 4} H${b}`} strokeWidth={1.6} />}
      {field.content.is === 'check' && begins && (
        <circle cx={a + 4} cy={y} r={4} className="fill-base-100" strokeWidth={2} />
      )}
      <text
        x={a}
        y={y + 17}
        strokeWidth={0}
        className={`text-[0.87rem] ${isChosen ? 'fill-primary font-bold' : 'fill-base-content'}`}
      >
        {label}
      </text>
      {ends && onEnd && (
        <rect
          x={b - 5}
          y={y - 9}
          width={9}
          height={14}
          strokeWidth={0}
          className="cursor-ew-resize fill-transparent"
          onPointerDown={(event) => {
            event.stopPropagation();
            onEnd(event);
          }}
        />
      )}
    </g>
  );
}
