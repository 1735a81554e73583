/** A week drawn: a row a day, a lane for each schedule, group or door; by mouse and by keyboard. */
import { type KeyboardEvent, type PointerEvent, useId, useMemo, useState } from 'react';
import { useElementWidth } from '../../platform/hooks/useElementWidth.ts';
import {
  type Band,
  bandInWords,
  layOutWeek,
  type Place,
  placeAt,
  placeInWords,
  textureOf,
  type WeekGeometry,
  xAt,
} from './geometry.ts';
import { bandLook, Textures } from './looks.tsx';
import { WeekLegend } from './WeekLegend.tsx';

interface Props {
  bands: readonly Band[];
  label: string;
  /** A moment that is marked. */
  mark?: Place | undefined;
}

const QUARTER = 15;

export function Week({ bands, label, mark }: Props) {
  const [box, width] = useElementWidth<HTMLDivElement>();
  const geometry = useMemo(() => layOutWeek(bands, Math.max(300, width || 700)), [bands, width]);
  const [cursor, setCursor] = useState<Place>();
  const days = bands[0]?.days.length ?? 0;
  const { day, minute } = cursor ?? mark ?? { day: 0, minute: 8 * 60 };
  const at = { day: Math.min(day, Math.max(0, days - 1)), minute };
  const move = (event: KeyboardEvent) => {
    const steps: Record<string, Place> = {
      ArrowRight: { ...at, minute: Math.min(1425, at.minute - (at.minute % QUARTER) + QUARTER) },
      ArrowLeft: { ...at, minute: Math.max(0, at.minute - (at.minute % QUARTER || QUARTER)) },
      ArrowDown: { ...at, day: Math.min(days - 1, at.day + 1) },
      ArrowUp: { ...at, day: Math.max(0, at.day - 1) },
      Home: { ...at, minute: 0 },
      End: { ...at, minute: 1439 },
    };
    const next = steps[event.key];
    if (!next || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    setCursor(next);
  };
  const point = (event: PointerEvent) => {
    const { left, top } = event.currentTarget.getBoundingClientRect();
    setCursor(placeAt(geometry, event.clientX - left, event.clientY - top));
  };
  if (days === 0) return null;
  const words = placeInWords(bands, at);
  return (
    <div>
      <div ref={box} className="overflow-hidden">
        <div
          role="slider"
          tabIndex={0}
          aria-label={label}
          aria-valuemin={0}
          aria-valuemax={days * 1440 - 1}
          aria-valuenow={at.day * 1440 + at.minute}
          aria-valuetext={words}
          onKeyDown={move}
          onPointerMove={point}
          className="w-fit cursor-crosshair"
        >
          <Drawing geometry={geometry} at={at} mark={mark} />
        </div>
      </div>
      <div className="flex flex-wrap items-baseline gap-x-3">
        <p className="grow font-mono text-ink-2" data-testid="week-words">
          {words}
        </p>
        <WeekLegend />
      </div>
      <ul className="sr-only">
        {bands.map((band) => (
          <li key={band.name}>{bandInWords(band)}</li>
        ))}
      </ul>
    </div>
  );
}

interface DrawingProps {
  geometry: WeekGeometry;
  at: Place;
  mark: Place | undefined;
}

function Drawing({ geometry, at, mark }: DrawingProps) {
  const id = useId();
  const { width, height, hours, rows } = geometry;
  const line = (place: Place, className: string, dash?: string) => {
    const row = rows[place.day];
    const x = xAt(geometry, place.minute);
    return (
      row && (
        <line
          x1={x}
          x2={x}
          y1={row.y}
          y2={row.y + row.height}
          className={className}
          strokeWidth={2}
          strokeDasharray={dash}
        />
      )
    );
  };
  return (
    <svg width={width} height={height} className="block select-none" aria-hidden="true">
      <defs>
        <Textures id={id} />
      </defs>
      {hours.map(({ x, label }, i) => (
        <text
          key={label}
          x={x}
          y={12}
          textAnchor={i === hours.length - 1 ? 'end' : i === 0 ? 'start' : 'middle'}
          className="fill-ink-2 font-mono text-[11px]"
        >
          {label}
        </text>
      ))}
      {rows.map((row) => (
        <g key={row.label}>
          <line x1={0} x2={width} y1={row.y} y2={row.y} className="stroke-faint" />
          <text x={0} y={row.y + row.height / 2 + 4} className="fill-base-content text-[12px]">
            {row.label}
            <tspan className="fill-signal" fontWeight={700}>
              {row.note && ` ${row.note.length > 9 ? `${row.note.slice(0, 8)}…` : row.note}`}
            </tspan>
          </text>
          {row.bars.map((bar) => (
            <rect
              key={`${bar.x} ${bar.y}`}
              x={bar.x}
              y={bar.y}
              width={Math.max(1, bar.width)}
              height={bar.height}
              {...bandLook(id, textureOf(bar.band))}
            />
          ))}
          {row.twice.map(({ x, y, width: w, height: h }) => (
            <rect key={`t${x}`} x={x} y={y} width={w} height={h} fill={`url(#${id}-twice)`} className="stroke-signal" />
          ))}
          {row.never.map(({ x, y, width: w, height: h }) => (
            <g key={`n${x}`} className="stroke-signal">
              <rect x={x} y={y} width={w} height={h} className="fill-base-100" />
              <path d={`M${x} ${y} l${w} ${h} M${x + w} ${y} l${-w} ${h}`} />
            </g>
          ))}
        </g>
      ))}
      {hours.map(({ x, label }) => (
        <line key={label} x1={x} x2={x} y1={16} y2={height} className="stroke-base-300" strokeDasharray="1 3" />
      ))}
      {mark && line(mark, 'stroke-signal')}
      {line(at, 'stroke-base-content', '3 2')}
    </svg>
  );
}
