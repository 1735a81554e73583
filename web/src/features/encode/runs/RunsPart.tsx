/** Runs: those that go and went, one chosen; and starting another. */
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { useRunsQuery } from '../../../platform/endpoints/runs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { clock } from '../../../platform/words/time.ts';
import { RUN_WORDS, STATE_WORDS } from '../words/words.ts';
import { NewRun } from './NewRun.tsx';
import { OneRun } from './OneRun.tsx';
import { PlayFile } from './PlayFile.tsx';

export function RunsPart() {
  const { id: site, zone, may } = useSite();
  const { data: runs, error } = useRunsQuery(site);
  const [params, setParams] = useSearchParams();
  const [starting, setStarting] = useState(false);
  if (!runs) return <FailureNote failure={error} />;
  const chosen = runs.find(({ id }) => id === params.get('run')) ?? runs[0];
  const show = (run: string) => {
    setStarting(false);
    setParams({ part: 'runs', run });
  };
  const isNew = starting || runs.length === 0;
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,16rem)_minmax(0,1fr)] gap-3 max-lg:block max-lg:space-y-3 max-lg:overflow-auto">
      <section className="panel flex min-h-0 flex-col gap-2 overflow-auto p-3" aria-label="Runs">
        {may('encode cards') && (
          <button type="button" className="btn btn-primary" onClick={() => setStarting(true)}>
            Start a run …
          </button>
        )}
        <ul>
          {runs.map((run) => (
            <li key={run.id} className="border-t border-faint">
              <button
                type="button"
                className="grid w-full cursor-pointer px-1 py-1.5 text-left hover:bg-chosen aria-[current=true]:bg-chosen"
                aria-current={!isNew && run.id === chosen?.id ? 'true' : undefined}
                onClick={() => show(run.id)}
              >
                <span>
                  {RUN_WORDS[run.kind].split(':')[0]} · {run.plan.name}
                </span>
                <span className="text-[0.9rem] text-ink-2">
                  <span className={run.state === 'going' ? 'font-bold text-primary' : ''}>
                    {STATE_WORDS[run.state]}
                  </span>
                  , {run.done}
                  {run.kind === 'encode' && ` of ${run.wanted}`} · {clock(run.startedAt, zone)}
                </span>
              </button>
            </li>
          ))}
        </ul>
        {runs.length === 0 && <p className="text-ink-2">No run yet.</p>}
        {may('encode cards') && <PlayFile />}
      </section>
      {isNew && may('encode cards') && (
        <NewRun onStarted={show} onCancel={runs.length > 0 ? () => setStarting(false) : undefined} />
      )}
      {!isNew && chosen && <OneRun key={chosen.id} id={chosen.id} />}
    </div>
  );
}
