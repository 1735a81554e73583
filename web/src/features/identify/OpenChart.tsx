/** How the open claims fell with each card: a small stacked bar for each number of cards. */
import type { Step } from './identify.worker.ts';

const HEIGHT = 54;

export function OpenChart({ steps }: { steps: readonly Step[] }) {
  const total = Math.max(1, ...steps.map((s) => s.proven + s.presumed + s.open));
  const width = Math.max(8, Math.min(22, Math.floor(260 / steps.length)));
  const last = steps.at(-1)!;
  const y = (count: number) => (count / total) * HEIGHT;
  return (
    <figure>
      <svg
        width={steps.length * width + 2}
        height={HEIGHT + 16}
        role="img"
        aria-label={stepsInWords(steps)}
        className="block"
      >
        {steps.map(({ cards, proven, presumed, open }, i) => {
          const x = i * width + 1;
          return (
            <g key={cards}>
              <rect x={x} y={HEIGHT - y(proven)} width={width - 3} height={y(proven)} className="fill-primary" />
              <rect
                x={x + 0.5}
                y={HEIGHT - y(proven + presumed)}
                width={width - 4}
                height={y(presumed)}
                className="fill-base-100 stroke-ink-2"
                strokeWidth={1}
              />
              <rect
                x={x + 0.5}
                y={HEIGHT - y(proven + presumed + open)}
                width={width - 4}
                height={y(open)}
                className="fill-base-100 stroke-signal"
                strokeWidth={1.2}
                strokeDasharray="3 2"
              />
              {(i === 0 || i === steps.length - 1 || steps.length < 9) && (
                <text x={x + (width - 3) / 2} y={HEIGHT + 12} textAnchor="middle" fontSize={10} className="fill-ink-2">
                  {cards}
                </text>
              )}
            </g>
          );
        })}
      </svg>
      <figcaption className="text-[0.9rem] text-ink-2">
        bits by cards read: filled where it is proven what turns them, framed presumed, dashed open ({last.open} left)
      </figcaption>
    </figure>
  );
}

const stepsInWords = (steps: readonly Step[]): string =>
  `Claims by cards read. ${steps.map((s) => `${s.cards}: ${s.proven} proven, ${s.presumed} presumed, ${s.open} open.`).join(' ')}`;
