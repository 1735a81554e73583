/** Saving a changed plan: first what it means for the cards and readers that are about, then as a version. */
import type { ChipPlan, OnePlan, PlanChangeShown } from '@rawbits/api';
import { useState } from 'react';
import type { ApiError } from '../../../platform/api/api.ts';
import { useDraft } from '../../../platform/drafts/useDraft.ts';
import {
  useAddPlanMutation,
  useAddPlanVersionMutation,
  usePlanDryRunMutation,
} from '../../../platform/endpoints/plans.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { WhatItMeans } from './WhatItMeans.tsx';

interface Props {
  /** What drafts are about. */
  about: string;
  saved?: OnePlan;
  draft: { basedOn: number; plan: ChipPlan } | undefined;
  plan: ChipPlan;
  onSaved: (id: string) => void;
  onForget: () => void;
}

export function SavePlan({ about, saved, draft, plan, onSaved, onForget }: Props) {
  const { id: site, may } = useSite();
  const [notes = '', setNotes] = useDraft<string>('notes on plans', about);
  const [shown, setShown] = useState<{ plan: ChipPlan; change: PlanChangeShown }>();
  const [add, adding] = useAddPlanMutation();
  const [addVersion, versioning] = useAddPlanVersionMutation();
  const [dryRun, running] = usePlanDryRunMutation();
  if (!may('encode cards') || (saved && !draft)) return null;
  const error = (adding.error ?? versioning.error ?? running.error) as ApiError | undefined;
  const canEvenSo = error?.code === 'assertion-broken' || error?.code?.startsWith('plan-');
  const look = async () => {
    const { data } = await dryRun({ params: { site, id: saved!.id }, body: { plan } });
    if (data) setShown({ plan, change: data });
  };
  const save = async (evenSo: boolean) => {
    const body = { plan, notes, evenSo };
    const result = saved
      ? await addVersion({ params: { site, id: saved.id }, body: { ...body, basedOn: draft!.basedOn } })
      : await add({ params: { site }, body });
    if (!result.data) return;
    onForget();
    setShown(undefined);
    setNotes(undefined);
    onSaved(result.data.id);
  };
  const isShown = shown?.plan === plan;
  return (
    <section className="grid gap-2 border border-primary bg-base-100 p-2" aria-label="Not saved yet">
      <div className="flex flex-wrap items-center gap-2">
        <strong>
          {saved ? `Changed, not saved: version ${saved.current} is in use.` : 'A new plan, not saved yet.'}
        </strong>
        {saved && draft && draft.basedOn !== saved.current && (
          <span className="text-signal">
            Somebody saved version {saved.current} meanwhile; this was made from version {draft.basedOn}.
          </span>
        )}
        <input
          className="input min-w-40 flex-1"
          aria-label="What was changed, and why"
          placeholder="what was changed, and why"
          value={notes}
          maxLength={2000}
          onChange={(event) => setNotes(event.target.value)}
        />
        {saved && (
          <button
            type="button"
            className={`btn ${isShown ? 'btn-line' : 'btn-primary'}`}
            disabled={running.isLoading}
            onClick={() => void look()}
          >
            {running.isLoading ? 'Working it out …' : 'What would it mean?'}
          </button>
        )}
        {(!saved || isShown) && (
          <button
            type="button"
            className="btn btn-primary"
            disabled={adding.isLoading || versioning.isLoading}
            onClick={() => void save(false)}
          >
            {saved ? `Save as version ${saved.current + 1}` : 'Save the plan'}
          </button>
        )}
        {canEvenSo && (
          <button type="button" className="btn btn-line" onClick={() => void save(true)}>
            Keep it even so
          </button>
        )}
        {draft && (
          <button type="button" className="btn btn-line" onClick={onForget}>
            {saved ? 'Forget the change' : 'Begin anew'}
          </button>
        )}
      </div>
      <FailureNote failure={error} />
      {isShown && <WhatItMeans change={shown.change} />}
    </section>
  );
}
