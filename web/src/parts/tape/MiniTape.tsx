/** A tape too small for digits, for the intake and lists: filled and hollow cells only. */
import { memo } from 'react';

export const MiniTape = memo(function MiniTape({ bits, width = 200 }: { bits: string; width?: number }) {
  const cell = Math.min(5, width / (bits.length + bits.length / 8));
  const x = (i: number) => i * cell + Math.floor(i / 8) * cell;
  return (
    <svg
      width={Math.ceil(x(bits.length - 1) + cell)}
      height={17}
      role="img"
      aria-label={`${bits.length} bits`}
      className="shrink-0"
    >
      <path
        d={[...bits].map((b, i) => (b === '1' ? `M${x(i)} 0h${cell}v17h${-cell}z` : '')).join('')}
        className="fill-base-content"
      />
      <path
        d={[...bits].map((b, i) => (b === '0' ? `M${x(i) + 0.5} .5h${cell - 1}v16h${1 - cell}z` : '')).join('')}
        className="fill-none stroke-base-content"
        strokeWidth={0.6}
      />
    </svg>
  );
});
