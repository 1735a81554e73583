/** The signs of a drawing and what each means: one press away from it, over the page. */
import { type ReactNode, useId } from 'react';

interface Props {
  /** What the signs stand on: `tape`, `strip`. */
  of: string;
  signs: readonly (readonly [sign: ReactNode, meaning: string])[];
}

export function Legend({ of, signs }: Props) {
  const id = useId();
  return (
    <>
      <button type="button" className="switch-link print:hidden" popoverTarget={id}>
        signs<span className="sr-only"> of the {of}</span>
      </button>
      <div id={id} popover="auto" className="panel m-auto max-w-xl p-4 text-base-content">
        <h2 className="mb-2">Signs of the {of}</h2>
        <dl className="grid grid-cols-[5.5rem_minmax(0,1fr)] items-center gap-x-3 gap-y-1.5">
          {signs.map(([sign, meaning]) => (
            <div key={meaning} className="contents">
              <dt>{sign}</dt>
              <dd>{meaning}</dd>
            </div>
          ))}
        </dl>
      </div>
    </>
  );
}

/** A sign drawn by itself, as wide as the column of signs. */
export function Sign({ height = 20, children }: { height?: number; children: ReactNode }) {
  return (
    <svg width={80} height={height} aria-hidden="true" className="block">
      {children}
    </svg>
  );
}
