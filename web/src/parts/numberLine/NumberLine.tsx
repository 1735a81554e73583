/** The numbers of a facility code, drawn on a line: by mouse and wheel, and by keyboard. */
import {
  type KeyboardEvent,
  type PointerEvent,
  useEffect,
  useId,
  useMemo,
  useRef,
  useState,
  type WheelEvent,
} from 'react';
import { useElementWidth } from '../../platform/hooks/useElementWidth.ts';
import {
  BAR_HEIGHT,
  type LineGeometry,
  type LineMap,
  layOutLine,
  numbersOf,
  panned,
  partAt,
  partInWords,
  type Range,
  zoomed,
} from './geometry.ts';
import { FATE_LOOKS, LineHatch } from './looks.tsx';

interface Props {
  map: LineMap;
  /** The greatest number of the format. */
  most: bigint;
  label: string;
  onRange: (range: Range) => void;
  chosenBox?: string;
  onBox: (id: string) => void;
}

const CLOSER = 0.5;

export function NumberLine({ map, most, label, onRange, chosenBox, onBox }: Props) {
  const [box, width] = useElementWidth<HTMLDivElement>();
  const geometry = useMemo(() => layOutLine(map, Math.max(160, width || 900)), [map, width]);
  const [cursor, setCursor] = useState(0);
  const at = Math.min(cursor, map.count - 1);
  const around = () => numbersOf(map, at).from;
  const press = (event: KeyboardEvent) => {
    const moves: Record<string, () => void> = {
      ArrowRight: () => (at < map.count - 1 ? setCursor(at + 1) : onRange(panned(map, 0.5, most))),
      ArrowLeft: () => (at > 0 ? setCursor(at - 1) : onRange(panned(map, -0.5, most))),
      PageDown: () => onRange(panned(map, 0.9, most)),
      PageUp: () => onRange(panned(map, -0.9, most)),
      Home: () => setCursor(0),
      End: () => setCursor(map.count - 1),
      '+': () => onRange(zoomed(map, CLOSER, around(), most)),
      '-': () => onRange(zoomed(map, 1 / CLOSER, around(), most)),
      Enter: () => {
        const { from, to } = numbersOf(map, at);
        const here = map.boxes.find(({ first, last }) => BigInt(first) <= to && BigInt(last) >= from);
        if (here) onBox(here.id);
      },
    };
    const move = moves[event.key];
    if (!move || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    move();
  };
  const placeOf = (event: PointerEvent | WheelEvent) => {
    const { left } = event.currentTarget.getBoundingClientRect();
    return partAt(map, geometry.width, event.clientX - left);
  };
  const turn = useWheel((event) => {
    const place = placeOf(event);
    setCursor(place);
    onRange(zoomed(map, event.deltaY < 0 ? 0.8 : 1.25, numbersOf(map, place).from, most));
  });
  const words = partInWords(map, at);
  return (
    <div>
      <div ref={box} className="overflow-hidden">
        <div
          ref={turn}
          tabIndex={0}
          role="slider"
          aria-label={label}
          aria-valuemin={1}
          aria-valuemax={map.count}
          aria-valuenow={at + 1}
          aria-valuetext={words}
          onKeyDown={press}
          onPointerMove={(event) => setCursor(placeOf(event))}
          onClick={(event) => {
            const id = (event.target as Element).closest('[data-bar]')?.getAttribute('data-bar');
            if (id) onBox(id);
          }}
          className="w-fit cursor-crosshair"
        >
          <Drawing geometry={geometry} at={at} count={map.count} chosenBox={chosenBox} />
        </div>
      </div>
      <p className="text-ink-2 font-mono" data-testid="number-words">
        {words}
      </p>
    </div>
  );
}

/** The wheel moves the line and not the page, which only a listener that may refuse can see to. */
function useWheel(turned: (event: WheelEvent) => void) {
  const node = useRef<HTMLDivElement>(null);
  const last = useRef(turned);
  last.current = turned;
  useEffect(() => {
    const element = node.current!;
    const turn = (event: Event) => {
      event.preventDefault();
      last.current(event as unknown as WheelEvent);
    };
    element.addEventListener('wheel', turn, { passive: false });
    return () => element.removeEventListener('wheel', turn);
  }, []);
  return node;
}

interface DrawingProps {
  geometry: LineGeometry;
  at: number;
  count: number;
  chosenBox?: string;
}

function Drawing({ geometry, at, count, chosenBox }: DrawingProps) {
  const hatch = useId();
  const { bars, columns, reserved, ticks, baseline, width, height } = geometry;
  return (
    <svg width={width} height={height} className="block" aria-hidden="true">
      <defs>
        <LineHatch id={hatch} />
      </defs>
      {bars.map((bar) => (
        <g key={bar.id} data-bar={bar.id} className="cursor-pointer">
          <rect
            x={bar.x + 0.5}
            y={bar.y + 0.5}
            width={Math.max(1, bar.width - 1)}
            height={BAR_HEIGHT - 1}
            fill={bar.id === chosenBox ? 'var(--color-base-300)' : 'var(--color-base-200)'}
            className="stroke-base-content"
            strokeWidth={bar.id === chosenBox ? 2 : 1}
          />
          {bar.width > 46 && (
            <text x={bar.x + 5} y={bar.y + 14} fontSize={12} className="fill-base-content">
              {fitted(bar.name, bar.width - 10)}
            </text>
          )}
        </g>
      ))}
      {columns.map(({ at, x, width, pieces }) => (
        <g key={at}>
          {pieces.map(({ fate, y, height }) => (
            <rect
              key={fate}
              x={x + 0.25}
              y={y}
              width={Math.max(1, width - 0.5)}
              height={height}
              strokeWidth={width > 5 ? 1 : 0.5}
              {...FATE_LOOKS[fate](hatch)}
            />
          ))}
        </g>
      ))}
      <line x1={0} x2={width} y1={baseline + 0.5} y2={baseline + 0.5} className="stroke-base-content" />
      {reserved.map(({ x, width, note }) => (
        <path
          key={`${x} ${note}`}
          d={`M${x} ${baseline + 3} v5 h${width} v-5`}
          fill="none"
          className="stroke-ink-2"
          strokeDasharray="2 2"
        />
      ))}
      {ticks.map(({ x, number, anchor }) => (
        <g key={number}>
          <line x1={x} x2={x} y1={baseline} y2={baseline + 5} className="stroke-base-content" />
          <text
            x={anchor === 'end' ? width : x}
            y={height - 4}
            textAnchor={anchor}
            fontSize={13}
            className="fill-ink-2 font-mono"
          >
            {number}
          </text>
        </g>
      ))}
      <rect
        x={(at / count) * width}
        y={0.75}
        width={Math.max(3, width / count)}
        height={baseline}
        fill="none"
        className="stroke-base-content"
        strokeWidth={1.5}
      />
    </svg>
  );
}

/** As much of a name as there is room for, at some seven pixels a letter. */
const fitted = (name: string, room: number): string => {
  const letters = Math.floor(room / 6.6);
  return name.length <= letters ? name : `${name.slice(0, Math.max(1, letters - 1))}…`;
};
