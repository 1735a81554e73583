/** What verifying a record found, each break by itself, and settling them with a reason. */

import type { TrailFinding } from '@rawbits/api';
import type { FormEvent } from 'react';
import { useDraft } from '../../platform/drafts/useDraft.ts';
import { useSettleTrailMutation, useVerifyTrailQuery } from '../../platform/endpoints/trail.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';

const SHOWN = 50;

export function Verification({ site, onClose }: { site: string | null; onClose: () => void }) {
  const { may } = useSite();
  const verified = useVerifyTrailQuery(site, { refetchOnMountOrArgChange: true });
  const { data, error, isFetching } = verified;
  const settled = data?.findings.filter((finding) => finding.settled) ?? [];
  const open = data?.findings.filter((finding) => !finding.settled) ?? [];
  return (
    <section className="panel flex max-h-[50%] flex-col gap-2 overflow-auto p-3" aria-label="The record verified">
      <div className="flex flex-wrap items-baseline gap-x-4">
        {isFetching && <span role="status">Verifying …</span>}
        {data && !isFetching && (
          <strong role="status" className={data.intact ? 'text-primary' : 'text-signal'} data-testid="verified">
            {data.message}
          </strong>
        )}
        <button type="button" className="switch-link ml-auto" onClick={onClose}>
          close
        </button>
      </div>
      <FailureNote failure={error} />
      {open.length > 0 && <Findings title="Open" findings={open} more={data?.more ?? 0} />}
      {settled.length > 0 && <Findings title="Settled" findings={settled} more={0} />}
      {open.length > 0 && may('keep the trail') && <Settle site={site} onSettled={() => void verified.refetch()} />}
    </section>
  );
}

function Findings({ title, findings, more }: { title: string; findings: TrailFinding[]; more: number }) {
  const clock = useClock();
  const rest = findings.length - SHOWN + more;
  return (
    <div>
      <h2>{title}</h2>
      <ul className="list-disc pl-5">
        {findings.slice(0, SHOWN).map((finding) => (
          <li key={`${finding.kind} ${finding.seq}`}>
            {finding.message}
            {finding.settled && (
              <span className="text-ink-2">
                {' '}
                {finding.settled.by}, {clock(finding.settled.at)}: {finding.settled.reason}
              </span>
            )}
          </li>
        ))}
        {rest > 0 && <li>and {rest.toLocaleString('en')} more</li>}
      </ul>
    </div>
  );
}

/** A break is found until somebody answers for it; its settling is an entry, and the break stays on record. */
function Settle({ site, onSettled }: { site: string | null; onSettled: () => void }) {
  const [reason = '', setReason] = useDraft<string>('reasons to settle', site ?? 'house');
  const [settle, { error, isLoading }] = useSettleTrailMutation();
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    const done = await settle({ site, reason });
    if (!done.data) return;
    setReason(undefined);
    onSettled();
  };
  return (
    <form onSubmit={submit} className="flex flex-wrap items-end gap-3">
      <Field label="Why the open ones are known and answered for" className="min-w-80 flex-1">
        {(props) => (
          <input
            {...props}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
            className="input w-full"
            maxLength={400}
            required
          />
        )}
      </Field>
      <button type="submit" className="btn btn-line" disabled={isLoading}>
        Settle them
      </button>
      <FailureNote failure={error} />
    </form>
  );
}
