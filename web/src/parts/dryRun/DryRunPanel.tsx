/** A change, shown on every card and read before it is saved. */
import type { DryRunState, SiteChange } from '@rawbits/api';
import { useEffect, useRef, useState } from 'react';
import {
  useApplyDryRunMutation,
  useCancelDryRunMutation,
  useDryRunQuery,
  useStartDryRunMutation,
} from '../../platform/endpoints/dryRuns.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { leftToLoad } from '../../platform/frame/slice.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { Term } from '../term/Term.tsx';
import { Outcomes } from './Outcomes.tsx';

interface Props {
  change: SiteChange;
  /** What the change is, in words: `Take up version 3 of 26-8-16`. */
  title: string;
  onSaved: () => void;
  onClose: () => void;
}

const POLL_MS = 250;

export function DryRunPanel({ change, title, onSaved, onClose }: Props) {
  const { id: site } = useSite();
  const [start, starting] = useStartDryRunMutation();
  const [cancel] = useCancelDryRunMutation();
  const began = useRef(false);
  const runId = starting.data?.id ?? '';
  const [running, setRunning] = useState(true);
  const { data = starting.data, error } = useDryRunQuery(
    { site, id: runId },
    { skip: runId === '', pollingInterval: running ? POLL_MS : 0 },
  );
  useEffect(() => {
    if (began.current) return;
    began.current = true;
    void start({ site, change });
  }, [start, site, change]);
  useEffect(() => {
    if (data) setRunning(data.state === 'running');
  }, [data]);
  const again = () => {
    setRunning(true);
    void start({ site, change });
  };
  return (
    <section className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4" aria-label="Dry run">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 className="text-[1.15rem]">
          <Term word="dry run">Dry run</Term>: {title}
        </h2>
        <span className="text-ink-2">Nothing is saved yet.</span>
      </div>
      <FailureNote failure={starting.error ?? error} />
      {data?.state === 'running' && <Progress run={data} onCancel={() => void cancel({ site, id: data.id })} />}
      {data?.state === 'cancelled' && <p>Cancelled; nothing was changed.</p>}
      {data?.state === 'failed' && <p className="text-signal">{data.message}</p>}
      {data?.result && <Outcomes result={data.result} />}
      {data?.state === 'done' && <Save run={data} title={title} onSaved={onSaved} onAgain={again} onClose={onClose} />}
      {data?.state !== 'done' && (
        <div className="flex gap-2">
          {(data?.state === 'cancelled' || data?.state === 'failed') && (
            <button type="button" className="btn btn-primary" onClick={again}>
              Run it again
            </button>
          )}
          <button type="button" className="btn btn-line" onClick={onClose}>
            Back
          </button>
        </div>
      )}
    </section>
  );
}

function Progress({ run, onCancel }: { run: DryRunState; onCancel: () => void }) {
  return (
    <div className="flex flex-wrap items-center gap-3" role="status">
      <progress className="progress progress-primary w-72" value={run.done} max={Math.max(run.total, 1)} />
      <span>
        {run.done.toLocaleString('en')} of {run.total.toLocaleString('en')} cards and reads
      </span>
      <button type="button" className="btn btn-line btn-small" onClick={onCancel}>
        Cancel
      </button>
    </div>
  );
}

function Save({
  run,
  title,
  onSaved,
  onAgain,
  onClose,
}: {
  run: DryRunState;
  title: string;
  onSaved: () => void;
  onAgain: () => void;
  onClose: () => void;
}) {
  const { id: site } = useSite();
  const dispatch = useAppDispatch();
  const [apply, { error, isLoading }] = useApplyDryRunMutation();
  const refused = run.result!.cards['newly refused'];
  const [typed, setTyped] = useState('');
  const agreed = refused === 0 || typed.trim() === String(refused);
  const save = async () => {
    const saved = await apply({ site, id: run.id, refuses: refused });
    if (!saved.data) return;
    dispatch(leftToLoad({ site, change: title }));
    onSaved();
  };
  return (
    <div className="flex shrink-0 flex-col gap-2 border-t border-base-300 pt-3">
      {refused > 0 && (
        <Field
          label={`This refuses ${refused.toLocaleString('en')} ${refused === 1 ? 'card that is' : 'cards that are'} let in as it is set up now. Type that number to save it all the same.`}
        >
          {(props) => (
            <input
              {...props}
              value={typed}
              onChange={(event) => setTyped(event.target.value)}
              inputMode="numeric"
              autoComplete="off"
              className="input w-32 font-mono"
            />
          )}
        </Field>
      )}
      <FailureNote failure={error} />
      <div className="flex gap-2">
        <button type="button" className="btn btn-primary" disabled={!agreed || isLoading} onClick={() => void save()}>
          Save the change
        </button>
        {error && 'code' in error && error.code === 'changed-meanwhile' && (
          <button type="button" className="btn btn-line" onClick={onAgain}>
            Run it again
          </button>
        )}
        <button type="button" className="btn btn-line" onClick={onClose}>
          Do not save
        </button>
      </div>
    </div>
  );
}
