/** Taking a plan in, from JSON or as it was sealed for us: it becomes a new plan, opened as a draft. */
import { useDraft } from '../../../platform/drafts/useDraft.ts';
import { useAddPlanMutation } from '../../../platform/endpoints/plans.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { planFrom } from './edit.ts';
import { isSealed, OpenSealed } from './OpenSealed.tsx';

export function TakePlanIn({ onDone, onOpen }: { onDone: () => void; onOpen: (id: string) => void }) {
  const { id: site } = useSite();
  const [text = '', setText] = useDraft<string>('plans to take in', site);
  const [add, { error, isLoading }] = useAddPlanMutation();
  const read = text.trim() === '' || isSealed(text) ? undefined : planFrom(text);
  const save = async (evenSo: boolean) => {
    if (!read || !('plan' in read)) return;
    const added = await add({ params: { site }, body: { plan: read.plan, notes: '', evenSo } });
    if (added.data) {
      setText(undefined);
      onOpen(added.data.id);
      onDone();
    }
  };
  return (
    <section className="panel grid max-w-3xl gap-2 p-3" aria-label="Import a plan">
      <label className="grid gap-1">
        <span className="field-label">The plan as JSON, keys by their names; or sealed with its keys, as a JWE</span>
        <textarea
          className="textarea h-40 w-full font-mono text-[0.9rem]"
          value={text}
          onChange={(event) => setText(event.target.value)}
          spellCheck={false}
        />
      </label>
      <input
        type="file"
        accept="application/json,.json,.jwe"
        aria-label="A file with a plan"
        onChange={(event) => void event.target.files?.[0]?.text().then(setText)}
      />
      {isSealed(text) && <OpenSealed jwe={text.trim()} onOpen={(plan) => setText(JSON.stringify(plan, null, 2))} />}
      {read && 'problem' in read && <p className="text-signal">{read.problem}</p>}
      <FailureNote failure={error} />
      <div className="flex gap-2">
        <button
          type="button"
          className="btn btn-primary"
          disabled={!read || !('plan' in read) || isLoading}
          onClick={() => void save(error !== undefined)}
        >
          {error ? 'Take it in even so' : 'Take it in'}
        </button>
        <button type="button" className="btn btn-line" onClick={onDone}>
          Cancel
        </button>
      </div>
    </section>
  );
}
