/** A credential drawn as it looks in the hand: its shape and what is printed on it. */
import { useDraggable } from '@dnd-kit/core';
import type { TrayCard } from '@rawbits/api';

/** The width that a print may take, in the drawing's units. */
const ROOM: Record<TrayCard['shape'], number> = { card: 82, fob: 42, wristband: 60, 'fingerprint card': 54 };
const INK = 'fill-base-100 stroke-base-content';

function Shape({ shape }: { shape: TrayCard['shape'] }) {
  const stroke = { strokeWidth: 1.4 };
  if (shape === 'fob')
    return (
      <g className={INK} {...stroke}>
        <circle cx="50" cy="9" r="6" />
        <path d="M38 16 h24 q6 0 8 10 l4 18 q2 14 -24 14 q-26 0 -24 -14 l4 -18 q2 -10 8 -10z" />
      </g>
    );
  if (shape === 'wristband')
    return (
      <g className={INK} {...stroke}>
        <path d="M2 24 h96 v14 h-96z" />
        <ellipse cx="50" cy="31" rx="34" ry="19" />
        {[5, 10, 90, 95].map((x) => (
          <circle key={x} cx={x} cy="31" r="1.6" />
        ))}
      </g>
    );
  return (
    <g className={INK} {...stroke}>
      <rect x="6" y="3" width="88" height="56" rx="5" />
      <rect x="43" y="7" width="14" height="4" rx="2" />
      {shape === 'fingerprint card' && (
        <g className="fill-none">
          <rect x="68" y="18" width="18" height="24" rx="8" />
          <path d="M72 36 v-8 a5 5 0 0 1 10 0 v8 M75 37 v-8 a2 2 0 0 1 4 0 v8" />
        </g>
      )}
    </g>
  );
}

/** A print in one line, or in two of about one length where it would be too small. */
export function printLines(printed: string, room: number): string[] {
  if (printed.length * 0.61 * 10.5 <= room || !printed.includes(' ')) return [printed];
  const words = printed.split(' ');
  const half = Math.ceil(words.length / 2);
  return [words.slice(0, half).join(' '), words.slice(half).join(' ')];
}

export function TrayCardButton({ card, chosen, onChoose }: { card: TrayCard; chosen: boolean; onChoose: () => void }) {
  const { setNodeRef, listeners, transform, isDragging } = useDraggable({ id: card.id });
  const lines = printLines(card.printed || '(no print)', ROOM[card.shape]);
  const textX = card.shape === 'fingerprint card' ? 38 : 50;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a drawn card that can be dragged; a radio input could not be
    <button
      ref={setNodeRef}
      {...listeners}
      id={`tray-${card.id}`}
      type="button"
      role="radio"
      aria-checked={chosen}
      tabIndex={chosen ? 0 : -1}
      aria-label={`${card.shape}, ${card.printed ? `printed ${card.printed}` : 'nothing printed'}: ${card.look}`}
      title={card.look}
      onClick={onChoose}
      data-card={card.id}
      style={transform ? { transform: `translate(${transform.x}px, ${transform.y}px)` } : undefined}
      className={`cursor-grab touch-none border-2 bg-base-200 p-1 text-left ${chosen ? 'border-primary' : 'border-transparent hover:border-base-300'} ${isDragging ? 'relative z-50 opacity-80' : ''}`}
    >
      <svg viewBox="0 0 100 62" aria-hidden="true" className="w-full">
        <Shape shape={card.shape} />
        {lines.map((line, i) => (
          <text
            key={line}
            x={textX}
            y={(card.shape === 'card' ? 39 : 36) + (i - (lines.length - 1) / 2) * 12}
            textAnchor="middle"
            fontSize={Math.min(13, ROOM[card.shape] / (Math.max(...lines.map((l) => l.length)) * 0.61))}
            className="fill-base-content font-mono"
          >
            {line}
          </text>
        ))}
      </svg>
      <span className="line-clamp-2 text-[0.8rem] leading-tight text-ink-2">{card.look}</span>
    </button>
  );
}
