/** The spans of a draft, each cell to be changed. */
import { failureOf } from '@rawbits/core/failure';
import { type Layout, printMethod, remove, replace, type Span } from '@rawbits/core/format';
import { Trash2 } from 'lucide-react';
import { type KeyboardEvent, useEffect, useState } from 'react';
import { type SpanCells, spanFromCells } from './roles.ts';

const ROLES = ['facility', 'number', 'issue', 'value', 'fixed', 'even', 'odd', 'check'];

function cellsOf(span: Span): SpanCells {
  return {
    at: span.at,
    role: span.role === 'parity' ? span.sense : span.role,
    detail:
      span.role === 'value'
        ? span.label
        : span.role === 'fixed'
          ? span.bits
          : span.role === 'check'
            ? printMethod(span.method)
            : '',
    written: ('written' in span && span.written) || 'binary',
    covers: 'covers' in span ? span.covers : '',
  };
}

export function SpanTable({
  layout,
  chosen,
  onChoose,
  onLayout,
}: {
  layout: Layout;
  chosen: number | undefined;
  onChoose: (index: number | undefined) => void;
  onLayout: (layout: Layout) => void;
}) {
  if (layout.spans.length === 0)
    return (
      <p className="text-ink-2">
        No bit has a role yet. Drag over the tape, or select with Shift and the arrow keys, then press the key of a
        role.
      </p>
    );
  return (
    <div className="min-w-0 self-start overflow-x-auto">
      <table className="grid-table" data-testid="spans">
        <thead>
          <tr>
            <th>bits</th>
            <th>what</th>
            <th>detail</th>
            <th>written</th>
            <th>covers</th>
            <th aria-label="remove" />
          </tr>
        </thead>
        <tbody>
          {layout.spans.map((span, index) => (
            <SpanRow
              key={`${span.role} ${span.at}`}
              span={span}
              bits={layout.bits}
              chosen={index === chosen}
              onChoose={() => onChoose(index)}
              onSpan={(next) => onLayout(replace(layout, index, next))}
              onRemove={() => {
                onChoose(undefined);
                onLayout(remove(layout, index));
              }}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function SpanRow({
  span,
  bits,
  chosen,
  onChoose,
  onSpan,
  onRemove,
}: {
  span: Span;
  bits: number;
  chosen: boolean;
  onChoose: () => void;
  onSpan: (span: Span) => void;
  onRemove: () => void;
}) {
  const [cells, setCells] = useState(() => cellsOf(span));
  const [wrong, setWrong] = useState<string>();
  useEffect(() => {
    setCells(cellsOf(span));
    setWrong(undefined);
  }, [span]);
  const commit = (next = cells) => {
    try {
      const made = spanFromCells(bits, next);
      setWrong(undefined);
      if (JSON.stringify(made) !== JSON.stringify(span)) onSpan(made);
    } catch (error) {
      setWrong(failureOf(error).message);
    }
  };
  const input = (name: keyof SpanCells, label: string, width: string) => (
    <input
      value={cells[name]}
      aria-label={`${label} of ${span.role} ${span.at}`}
      onChange={(event) => setCells({ ...cells, [name]: event.target.value })}
      onBlur={() => commit()}
      onKeyDown={(event: KeyboardEvent) => event.key === 'Enter' && commit()}
      spellCheck={false}
      className={`input h-7! px-1.5! font-mono ${width}`}
    />
  );
  const choose = (name: 'role' | 'written', options: string[]) => (
    <select
      value={cells[name]}
      aria-label={`${name} of ${span.role} ${span.at}`}
      onChange={(event) => {
        const next = withNeeds({ ...cells, [name]: event.target.value }, bits);
        setCells(next);
        commit(next);
      }}
      className="select h-7! w-24 px-1.5!"
    >
      {options.map((option) => (
        <option key={option}>{option}</option>
      ))}
    </select>
  );
  const summed = 'covers' in span;
  return (
    <>
      <tr aria-selected={chosen} onFocus={onChoose} onPointerDown={onChoose}>
        <td>{input('at', 'Bits', 'w-full min-w-16')}</td>
        <td>{choose('role', ROLES)}</td>
        <td>
          {['value', 'fixed', 'check'].includes(span.role) &&
            input('detail', 'Label, bits or method', 'w-full min-w-20')}
        </td>
        <td>{!summed && span.role !== 'fixed' && choose('written', ['binary', 'bcd', 'bcd-low', 'char5'])}</td>
        <td>{summed && input('covers', 'Coverage', 'w-full min-w-20')}</td>
        <td>
          <button
            type="button"
            className="grid size-[24px] cursor-pointer place-items-center hover:text-primary"
            aria-label={`remove ${span.role} ${span.at}`}
            onClick={onRemove}
          >
            <Trash2 size={15} aria-hidden="true" />
          </button>
        </td>
      </tr>
      {wrong && (
        <tr>
          <td colSpan={6} role="alert" className="text-signal">
            {wrong}
          </td>
        </tr>
      )}
    </>
  );
}

/** What another role needs beside the positions, so that choosing it is enough. */
function withNeeds(cells: SpanCells, bits: number): SpanCells {
  const next = { ...cells };
  if (['even', 'odd', 'check'].includes(next.role) && next.covers === '') next.covers = `1-${bits}`;
  if (next.role === 'value' && next.detail === '') next.detail = 'value';
  if (next.role === 'check' && !/^(xor|crc|lrc)/.test(next.detail)) next.detail = 'xor8';
  if (next.role === 'fixed' && !/^[01]+$/.test(next.detail)) next.detail = '0';
  return next;
}
