/** A run: what its pads wait for, how far it is, and its cards. */
import { useState } from 'react';
import {
  useEndRunMutation,
  useGoOnWithRunMutation,
  usePadsQuery,
  useRunQuery,
  useStopRunMutation,
} from '../../../platform/endpoints/runs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { PAD_LOOK, paceWords, RUN_WORDS, restWords, STATE_WORDS } from '../words/words.ts';
import { RunCards } from './RunCards.tsx';

const LOOK_MS = 700;

export function OneRun({ id }: { id: string }) {
  const { id: site, may } = useSite();
  const [going, setGoing] = useState(true);
  const { data: run, error } = useRunQuery({ site, id }, { pollingInterval: going ? LOOK_MS : 0 });
  if (run && (run.state === 'going' || run.pads.length > 0) !== going) setGoing(!going);
  if (!run) return <FailureNote failure={error} />;
  const rest = restWords(run);
  return (
    <section className="flex min-h-0 flex-col gap-3 overflow-auto" aria-label="Run">
      <div className="panel grid gap-2 p-3">
        <div className="flex flex-wrap items-baseline gap-x-3">
          <h2 className="text-[1.15rem]">
            {RUN_WORDS[run.kind].split(':')[0]} · {run.plan.name}, version {run.plan.version}
          </h2>
          <span className="text-ink-2">
            {STATE_WORDS[run.state]}, started by {run.startedBy}
            {run.under && `, by the grant for ${run.under}`}
          </span>
        </div>
        {run.kind === 'encode' ? (
          <>
            <progress className="progress w-full" value={run.done} max={run.wanted} aria-label="Cards done" />
            <p>
              <strong>
                {run.done} of {run.wanted}
              </strong>{' '}
              verified
              {run.amiss > 0 && <span className="text-signal">, {run.amiss} begun and not finished</span>}
              {run.paceMs !== null && <span className="text-ink-2"> · {paceWords(run.paceMs)}</span>}
              {rest && <span className="text-ink-2"> · {rest} left</span>}
            </p>
          </>
        ) : (
          <p>
            <strong>{run.done}</strong> done of {run.wanted} that carried the plan when it began
            {run.amiss > 0 && <span className="text-signal">, {run.amiss} amiss</span>}
            {run.paceMs !== null && <span className="text-ink-2"> · {paceWords(run.paceMs)}</span>}
          </p>
        )}
        {run.pads.map((pad) => (
          <div
            key={pad.pad}
            role="status"
            data-testid="pad-tells"
            className={`border-l-8 bg-base-200 p-3 ${PAD_LOOK[pad.weight]}`}
          >
            <p className="text-[0.9rem] text-ink-2">
              {pad.name}
              {pad.card && <> · card {pad.card}</>}
            </p>
            <p
              className={`text-[1.3rem] font-bold ${pad.weight === 'problem' ? 'text-signal' : pad.weight === 'done' ? 'text-primary' : ''}`}
            >
              {pad.says}
            </p>
            <p>{pad.next}</p>
            {pad.last && (
              <p
                data-testid="pad-last"
                className={`text-[0.9rem] ${pad.last.weight === 'problem' ? 'text-signal' : ''}`}
              >
                Before{pad.last.card && <>, card {pad.last.card}</>}: {pad.last.says}
              </p>
            )}
          </div>
        ))}
        {may('encode cards') && <Actions id={id} state={run.state} rests={run.pads.length === 0} />}
      </div>
      <RunCards run={run} />
    </section>
  );
}

function Actions({ id, state, rests }: { id: string; state: string; rests: boolean }) {
  const { id: site } = useSite();
  const { data: pads = [] } = usePadsQuery(site);
  const [stop, stopping] = useStopRunMutation();
  const [goOn, going] = useGoOnWithRunMutation();
  const [end, ending] = useEndRunMutation();
  const free = pads.find(({ run }) => run === null);
  if (state === 'done' || state === 'cancelled') return null;
  return (
    <div className="flex flex-wrap items-center gap-2">
      {state === 'going' && (
        <button
          type="button"
          className="btn btn-line btn-small"
          disabled={stopping.isLoading}
          onClick={() => void stop({ site, id })}
        >
          Let it rest
        </button>
      )}
      {state === 'stopped' && (
        <button
          type="button"
          className="btn btn-primary btn-small"
          disabled={!rests || !free || going.isLoading}
          title={free ? undefined : 'No pad is free'}
          onClick={() => void goOn({ params: { site, id }, body: { pads: [free!.id] } })}
        >
          Go on at {free?.name ?? 'a pad'}
        </button>
      )}
      <button
        type="button"
        className="btn btn-line btn-small"
        disabled={ending.isLoading}
        onClick={() => void end({ site, id })}
      >
        End it for good
      </button>
      <FailureNote failure={stopping.error ?? going.error ?? ending.error} />
    </div>
  );
}
