/** The plans of a site: one chosen, changed as a draft, saved as a version. */
import type { ChipPlan } from '@rawbits/api';
import { CHIPS, PLAN_KINDS } from '@rawbits/core/plan';
import { useEffect, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { KeysReady } from '../../../parts/keysReady/KeysReady.tsx';
import { useDraft } from '../../../platform/drafts/useDraft.ts';
import { usePlanQuery, usePlansQuery } from '../../../platform/endpoints/plans.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { newPlanOf } from './edit.ts';
import { OpenPlan } from './OpenPlan.tsx';
import { TakePlanIn } from './TakePlanIn.tsx';

/** The address of a plan that is not saved yet. */
const NEW = 'new';

export function PlansPart() {
  const { id: site, may } = useSite();
  const navigate = useNavigate();
  const { plan: chosen } = useParams();
  const [taking, setTaking] = useState(false);
  const { data: plans, error } = usePlansQuery(site);
  const first = plans?.[0]?.id;
  useEffect(() => {
    if (chosen === undefined && first !== undefined) void navigate(`/${site}/encode/${first}`, { replace: true });
  }, [chosen, first, site, navigate]);
  const open = (id: string) => void navigate(`/${site}/encode/${id}`);
  if (!plans) return <FailureNote failure={error} />;
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2 print:hidden">
        <label className="flex items-center gap-2">
          <span className="text-ink-2">Plan</span>
          <select className="select" value={chosen ?? ''} onChange={(event) => open(event.target.value)}>
            {chosen === undefined && <option value="">choose …</option>}
            {plans.map(({ id, name, current, cards }) => (
              <option key={id} value={id}>
                {name}, version {current} · {cards} {cards === 1 ? 'card' : 'cards'}
              </option>
            ))}
            {(chosen === NEW || may('encode cards')) && <option value={NEW}>a new plan …</option>}
          </select>
        </label>
        {may('encode cards') && (
          <button type="button" className="btn btn-line btn-small" onClick={() => setTaking(!taking)}>
            Import a plan …
          </button>
        )}
      </div>
      <KeysReady />
      {taking && <TakePlanIn onDone={() => setTaking(false)} onOpen={open} />}
      {plans.length === 0 && chosen === undefined && (
        <p className="panel max-w-3xl p-4">
          No plan yet. A plan says what goes on a card: its applications, files, keys and fields. Begin with{' '}
          <button type="button" className="cursor-pointer underline" onClick={() => open(NEW)}>
            a new plan
          </button>
          : it has an application with the credential in it, to be changed as you need.
        </p>
      )}
      {chosen === NEW && <NewPlan onSaved={open} />}
      {chosen !== undefined && chosen !== NEW && <SavedPlan key={chosen} id={chosen} onSaved={open} />}
    </>
  );
}

function NewPlan({ onSaved }: { onSaved: (id: string) => void }) {
  const { id: site } = useSite();
  const [kind = 'files', setKind] = useDraft<ChipPlan['kind']>('kinds of new plans', site);
  return (
    <>
      <fieldset className="flex flex-wrap items-baseline gap-x-3">
        <legend className="sr-only">What it is for</legend>
        <span className="text-ink-2">For</span>
        {PLAN_KINDS.map((one) => (
          <button
            key={one}
            type="button"
            className="switch-link"
            aria-pressed={kind === one}
            onClick={() => setKind(one)}
          >
            {CHIPS[one]}
          </button>
        ))}
      </fieldset>
      <OpenPlan key={kind} base={newPlanOf(kind, 'New plan')} onSaved={onSaved} />
    </>
  );
}

function SavedPlan({ id, onSaved }: { id: string; onSaved: (id: string) => void }) {
  const { id: site } = useSite();
  const { data, error } = usePlanQuery({ site, id });
  const current = data?.versions.find(({ version }) => version === data.current);
  if (!data || !current) return <FailureNote failure={error} />;
  return <OpenPlan saved={data} base={current.plan} onSaved={onSaved} />;
}
