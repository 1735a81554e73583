/** Encode: chip plans and what their keys can do; runs; and reading a card on a pad. */
import { lazy, Suspense } from 'react';
import { useSearchParams } from 'react-router';

const PlansPart = lazy(async () => ({ default: (await import('./plans/PlansPart.tsx')).PlansPart }));
const RunsPart = lazy(async () => ({ default: (await import('./runs/RunsPart.tsx')).RunsPart }));
const PadPart = lazy(async () => ({ default: (await import('./pad/PadPart.tsx')).PadPart }));

const PARTS = [
  ['plans', 'Plans'],
  ['runs', 'Runs'],
  ['pad', 'Read a card'],
] as const;

export function EncodeScreen() {
  const [params, setParams] = useSearchParams();
  const part = PARTS.find(([name]) => name === params.get('part'))?.[0] ?? 'plans';
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 print:hidden">
        <h1>Encode</h1>
        <nav aria-label="Parts of Encode" className="flex flex-wrap gap-x-2">
          {PARTS.map(([name, words]) => (
            <button
              key={name}
              type="button"
              className="switch-link"
              aria-pressed={part === name}
              onClick={() => setParams(name === 'plans' ? {} : { part: name })}
            >
              {words}
            </button>
          ))}
        </nav>
      </div>
      <Suspense fallback={<p>Loading …</p>}>
        {part === 'plans' && <PlansPart />}
        {part === 'runs' && <RunsPart />}
        {part === 'pad' && <PadPart />}
      </Suspense>
    </div>
  );
}
