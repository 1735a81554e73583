/** A plan as JSON, by the published schema: read, kept as a file, or changed as text. */
import type { ChipPlan } from '@rawbits/api';
import { CopyButton } from '../../../parts/copy/CopyButton.tsx';
import { useDraft } from '../../../platform/drafts/useDraft.ts';
import { download } from '../../../platform/files/download.ts';
import { planFrom } from './edit.ts';
import { Parts } from './Parts.tsx';

interface Props {
  /** What drafts are about: the plan by its identifier, or that it is new. */
  about: string;
  plan: ChipPlan;
  onChange?: (plan: ChipPlan) => void;
}

export function PlanJson({ about, plan, onChange }: Props) {
  const text = JSON.stringify(plan, null, 2);
  const [typed, setTyped] = useDraft<string>('plans as text', about);
  const read = typed === undefined ? undefined : planFrom(typed);
  return (
    <div className="grid gap-2">
      <textarea
        aria-label="The plan as JSON"
        className="textarea h-96 w-full font-mono text-[0.9rem]"
        value={typed ?? text}
        readOnly={!onChange}
        spellCheck={false}
        onChange={(event) => setTyped(event.target.value)}
      />
      {read && 'problem' in read && <p className="text-signal">{read.problem}</p>}
      <div className="flex flex-wrap gap-2">
        {onChange && (
          <button
            type="button"
            className="btn btn-primary"
            disabled={!read || !('plan' in read)}
            onClick={() => {
              if (read && 'plan' in read) onChange(read.plan);
              setTyped(undefined);
            }}
          >
            Take the change over
          </button>
        )}
        <button
          type="button"
          className="btn btn-line"
          onClick={() => download(`${plan.name}.json`, text, 'application/json')}
        >
          Keep as a file
        </button>
        <CopyButton text={text} what="the plan as JSON" />
      </div>
      <p className="text-[0.9rem] text-ink-2">
        Keys stand in it by their names alone. Its schema is at{' '}
        <a className="underline" href="/api/schemas/plan-1.json">
          /api/schemas/plan-1.json
        </a>
        .
      </p>
      {plan.kind === 'files' && <Parts about={about} plan={plan} onChange={onChange} />}
    </div>
  );
}
