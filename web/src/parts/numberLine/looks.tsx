/** How cards look on a line of numbers, by what has become of them: told by texture first, by colour second. */
import type { Fate } from './geometry.ts';

export const FATE_LOOKS: Record<Fate, (hatch: string) => object> = {
  held: () => ({ fill: 'var(--color-primary)', stroke: 'var(--color-primary)' }),
  'in stock': (hatch) => ({ fill: `url(#${hatch})`, stroke: 'var(--color-primary)' }),
  out: () => ({ fill: 'none', stroke: 'var(--color-signal)', strokeDasharray: '3 2' }),
};

export const LineHatch = ({ id }: { id: string }) => (
  <pattern id={id} width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
    <line x1="0" y1="0" x2="0" y2="4" stroke="var(--color-primary)" strokeWidth="1.6" />
  </pattern>
);
