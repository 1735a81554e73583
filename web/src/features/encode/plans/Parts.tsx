/** A part of a plan for a third party, and what came back from them put in its place, with what changed shown first. */
import { failureOf } from '@rawbits/core/failure';
import { CHIPS, differencesOf, merged, partOf } from '@rawbits/core/plan';
import { useState } from 'react';
import { useDraft } from '../../../platform/drafts/useDraft.ts';
import { download } from '../../../platform/files/download.ts';
import { Check } from '../../../platform/forms/controls.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { Differences } from './Differences.tsx';
import { type FilesPlan, planFrom } from './edit.ts';
import { SealPart } from './SealPart.tsx';

interface Props {
  /** What drafts are about. */
  about: string;
  plan: FilesPlan;
  onChange?: (plan: FilesPlan) => void;
}

export function Parts({ about, plan, onChange }: Props) {
  const { may } = useSite();
  const [ids, setIds] = useState<string[]>([]);
  const [text = '', setText] = useDraft<string>('parts that came back', about);
  const back = text.trim() === '' ? undefined : mergedFrom(plan, text);
  return (
    <section className="grid gap-2 border-t border-faint pt-3" aria-label="Parts for third parties">
      <h3 className="font-bold">For a third party</h3>
      <p className="text-[0.9rem] text-ink-2">
        They get the applications that you choose, with the names of the keys in them, and nothing of the rest of the
        card.
      </p>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        {plan.applications.map(({ id, name }) => (
          <Check
            key={id}
            label={`${name ?? ''} ${id}`}
            checked={ids.includes(id)}
            onChange={(on) => setIds(on ? [...ids, id] : ids.filter((one) => one !== id))}
          />
        ))}
        <button
          type="button"
          className="btn btn-line btn-small"
          disabled={ids.length === 0}
          onClick={() =>
            download(`${plan.name}, part.json`, JSON.stringify(partOf(plan, ids), null, 2), 'application/json')
          }
        >
          Keep this part as a file
        </button>
      </div>
      {may('hold keys') && <SealPart about={about} plan={plan} ids={ids} />}
      {onChange && (
        <>
          <label className="grid gap-1">
            <span className="field-label">What came back from them</span>
            <textarea
              className="textarea h-24 w-full font-mono text-[0.9rem]"
              value={text}
              spellCheck={false}
              onChange={(event) => setText(event.target.value)}
            />
          </label>
          {back && 'problem' in back && <p className="text-signal">{back.problem}</p>}
          {back && 'plan' in back && (
            <>
              <Differences differences={differencesOf(plan, back.plan)} />
              <button
                type="button"
                className="btn btn-primary btn-small justify-self-start"
                onClick={() => {
                  onChange(back.plan);
                  setText(undefined);
                }}
              >
                Take it over
              </button>
            </>
          )}
        </>
      )}
    </section>
  );
}

function mergedFrom(plan: FilesPlan, text: string): { plan: FilesPlan } | { problem: string } {
  const read = planFrom(text);
  if ('problem' in read) return read;
  if (read.plan.kind !== 'files') return { problem: `This is a plan of ${CHIPS[read.plan.kind]}.` };
  try {
    return { plan: merged(plan, read.plan) as FilesPlan };
  } catch (error) {
    const { message, hint } = failureOf(error);
    return { problem: [message, hint].filter(Boolean).join(' ') };
  }
}
