/**
 * What is drawn around the cells. A role is told by the shape and texture of its bracket first: facility a double rule,
 * number one heavy rule, issue a dashed rule over a plain one, a labelled value a thin rule, fixed bits dots, parity
 * and checks a ring with its thread. A thread that fails is broken by a cross, in the signal colour, with the word.
 */
import type { Segment, SpanLook, TapeGeometry, ThreadPiece } from './geometry.ts';

const COLOUR: Record<SpanLook, string> = {
  facility: 'stroke-secondary',
  number: 'stroke-base-content',
  issue: 'stroke-base-content',
  value: 'stroke-base-content',
  fixed: 'stroke-ink-2',
  check: 'stroke-primary',
  parity: 'stroke-primary',
  found: 'stroke-signal',
};
const TEXT: Partial<Record<SpanLook, string>> = {
  facility: 'fill-secondary',
  fixed: 'fill-ink-2',
  check: 'fill-primary',
  found: 'fill-signal',
};

export function Bracket({ look, x1, x2, y }: Segment) {
  const [a, b] = [x1 + 1.5, x2 - 1.5];
  const colour = COLOUR[look];
  if (look === 'parity' || look === 'check')
    return (
      <g className={`${colour} fill-base-100`} strokeWidth={2}>
        {look === 'check' && <line x1={a + 4} x2={b - 4} y1={y + 4} y2={y + 4} />}
        <circle cx={look === 'check' ? a + 4 : (a + b) / 2} cy={y + 4} r={4} />
      </g>
    );
  const ends = `M${a} ${y - 2} V${y + 3} M${b} ${y - 2} V${y + 3}`;
  if (look === 'number')
    return <path d={`M${a} ${y - 2} V${y + 4} H${b} V${y - 2}`} className={`${colour} fill-none`} strokeWidth={3.5} />;
  if (look === 'facility')
    return (
      <path
        d={`${ends} M${a} ${y + 1} H${b} M${a} ${y + 5} H${b}`}
        className={`${colour} fill-none`}
        strokeWidth={1.6}
      />
    );
  if (look === 'issue')
    return (
      <g className={`${colour} fill-none`} strokeWidth={1.6}>
        <path d={`${ends} M${a} ${y + 1} H${b}`} />
        <path d={`M${a} ${y + 5} H${b}`} strokeDasharray="3 2" />
      </g>
    );
  if (look === 'fixed')
    return (
      <path
        d={`M${a + 2} ${y + 3} H${b}`}
        className={`${colour} fill-none`}
        strokeWidth={3}
        strokeDasharray="0.1 6"
        strokeLinecap="round"
      />
    );
  if (look === 'found')
    return (
      <path
        d={`${ends} M${a} ${y + 3} H${b}`}
        className={`${colour} fill-none`}
        strokeWidth={2}
        strokeDasharray="5 3"
      />
    );
  return <path d={`${ends} M${a} ${y + 3} H${b}`} className={`${colour} fill-none`} strokeWidth={1.4} />;
}

export function Brackets({ geometry }: { geometry: TapeGeometry }) {
  return geometry.lines.map((line) => (
    <g key={line.from}>
      {line.segments.map((segment) => (
        <Bracket key={`${segment.spanId} ${segment.x1}`} {...segment} />
      ))}
      {line.labels.map(({ spanId, look, name, value, x, y }) => (
        <g key={spanId} className={TEXT[look] ?? 'fill-base-content'} textAnchor="middle">
          <text x={x} y={y} fontSize={12.5}>
            {name}
          </text>
          {value !== undefined && (
            <text x={x} y={y + 17} fontSize={17} className="font-mono font-bold">
              {value}
            </text>
          )}
        </g>
      ))}
    </g>
  ));
}

export function Thread({ piece }: { piece: ThreadPiece }) {
  const { holds, x1, x2, y, ticks, rings, foot, text } = piece;
  const fails = holds === false;
  const colour = fails ? 'stroke-signal' : 'stroke-primary';
  const middle = (x1 + x2) / 2;
  const bar = !fails ? `M${x1} ${y} H${x2}` : `M${x1} ${y} H${middle - 9} M${middle + 9} ${y} H${x2}`;
  return (
    <g>
      <path d={bar} className={`${colour} fill-none`} strokeWidth={1.8} />
      {fails && (
        <path
          d={`M${middle - 5} ${y - 5} l10 10 M${middle + 5} ${y - 5} l-10 10`}
          className={`${colour} fill-none`}
          strokeWidth={2.4}
        />
      )}
      <path d={ticks.map((x) => `M${x} ${y} v5`).join('')} className={`${colour} fill-none`} strokeWidth={1.4} />
      {rings.map((x) => (
        <g key={x} className={`${colour} fill-base-100`} strokeWidth={1.8}>
          <line x1={x} x2={x} y1={y} y2={foot + 1} />
          <circle cx={x} cy={y} r={4.5} />
        </g>
      ))}
      {text && (
        <text
          x={text.x}
          y={text.y}
          textAnchor={text.anchor}
          fontSize={11.5}
          className={fails ? 'fill-signal font-bold' : 'fill-primary'}
        >
          {text.text}
        </text>
      )}
    </g>
  );
}

export function Threads({ geometry }: { geometry: TapeGeometry }) {
  return geometry.lines.map((line) => (
    <g key={line.from}>
      {line.threads.map((piece) => (
        <Thread key={piece.threadId} piece={piece} />
      ))}
    </g>
  ));
}
