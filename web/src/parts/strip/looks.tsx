/** How the cells of a strip look by their standing; `hatch` is the id of a Hatch drawn beside them. */
export const LOOKS = {
  proven: () => ({ fill: 'var(--color-primary)', stroke: 'var(--color-primary)' }),
  settled: (hatch: string) => ({ fill: `url(#${hatch})`, stroke: 'var(--color-primary)' }),
  likely: () => ({ fill: 'none', stroke: 'var(--color-ink-2)' }),
  open: () => ({ fill: 'none', stroke: 'var(--color-signal)', strokeDasharray: '2 2' }),
} as const;

export const Hatch = ({ id }: { id: string }) => (
  <pattern id={id} width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
    <line x1="0" y1="0" x2="0" y2="4" stroke="var(--color-primary)" strokeWidth="2.4" />
  </pattern>
);
