/** A new version of a key: the first step of rolling it over. */

import { type Key, newKeyVersionSchema } from '@rawbits/api';
import { DraftNote } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useAddKeyVersionMutation } from '../../../platform/endpoints/keys.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { ComesFields } from './ComesFields.tsx';
import { type ComesTyped, emptyComes, versionBodyOf } from './comes.ts';

export function NewVersion({ of, onDone }: { of: Key; onDone: () => void }) {
  const { id: site, zone } = useSite();
  const [add, { error, isLoading }] = useAddKeyVersionMutation();
  const next = Math.min(255, Math.max(-1, ...of.versions.map(({ version }) => version)) + 1);
  const [form, draft] = useKeptForm('versions of keys', `${site} ${of.id}`, {
    secret: ['hex'],
    resolver: checkedAs(newKeyVersionSchema, (typed: ComesTyped) => versionBodyOf(typed, zone)),
    defaultValues: emptyComes(next),
  });
  const submit = form.handleSubmit(async () => {
    const added = await add({ params: { site, id: of.id }, body: versionBodyOf(form.getValues(), zone) });
    if (!added.data) return;
    draft.forget();
    onDone();
  });
  return (
    <form onSubmit={submit} className="grid gap-3 border-t border-faint pt-3" aria-label="New version" noValidate>
      <h2>A new version</h2>
      <DraftNote draft={draft} />
      <p className="text-ink-2">
        The version in use stays in use until you put the new one in its place; cards that carry the old one go on
        working until then.
      </p>
      <ComesFields form={form} kind={of.kind} errors={form.formState.errors} />
      <FailureNote failure={error} />
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary" disabled={isLoading}>
          Add the version
        </button>
        <button type="button" className="btn btn-line" onClick={onDone}>
          Cancel
        </button>
      </div>
    </form>
  );
}
