/** System identifiers of the site: what of it goes into its diversified keys. */

import { newSystemIdentifierSchema } from '@rawbits/api';
import { useState } from 'react';
import { DraftNote } from '../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../platform/drafts/useKeptForm.ts';
import {
  useAddSystemIdentifierMutation,
  useRemoveSystemIdentifierMutation,
  useSystemIdentifiersQuery,
} from '../../platform/endpoints/keys.ts';
import { checkedAs } from '../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { UndoNote } from '../../platform/forms/UndoNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { grouped } from './words/words.ts';

export function Identifiers({ onTake }: { onTake: (bytes: string) => void }) {
  const { id: site, may } = useSite();
  const { data = [], error } = useSystemIdentifiersQuery(site);
  const [remove, { error: notRemoved }] = useRemoveSystemIdentifierMutation();
  const [add, adding] = useAddSystemIdentifierMutation();
  const [deleted, setDeleted] = useState<(typeof data)[number]>();
  const undo = async ({ name, bytes, notes }: (typeof data)[number]) => {
    const again = await add({ params: { site }, body: { name, bytes, notes } });
    if (again.data) setDeleted(undefined);
  };
  return (
    <section className="panel grid content-start gap-2 p-4" aria-label="System identifiers">
      <h2>System identifiers of this site</h2>
      {data.length === 0 && <p className="text-ink-2">None yet. It makes the keys of this site its own.</p>}
      <ul className="grid gap-1">
        {data.map((one) => (
          <li key={one.id} className="flex flex-wrap items-center gap-2 border-t border-faint pt-1">
            <span className="min-w-0 flex-1">
              <strong>{one.name}</strong> <span className="font-mono">{grouped(one.bytes)}</span>
            </span>
            <button type="button" className="btn btn-line btn-small" onClick={() => onTake(one.bytes)}>
              Take it
            </button>
            {may('hold keys') && (
              <button
                type="button"
                className="btn btn-line btn-small"
                onClick={async () => {
                  if (!(await remove({ site, id: one.id })).error) setDeleted(one);
                }}
              >
                Delete
              </button>
            )}
          </li>
        ))}
      </ul>
      <FailureNote failure={error ?? notRemoved} />
      {deleted && (
        <UndoNote
          text={`The identifier ${deleted.name} is deleted.`}
          onUndo={() => void undo(deleted)}
          isLoading={adding.isLoading}
          failure={adding.error}
        />
      )}
      {may('hold keys') && <NewIdentifier />}
    </section>
  );
}

function NewIdentifier() {
  const { id: site } = useSite();
  const [add, { error, isLoading }] = useAddSystemIdentifierMutation();
  const [form, draft] = useKeptForm('system identifiers', `${site} new`, {
    resolver: checkedAs(newSystemIdentifierSchema, (typed: { name: string; bytes: string }) => typed),
    defaultValues: { name: '', bytes: '' },
  });
  const { register, handleSubmit, reset, formState } = form;
  const { errors } = formState;
  const submit = handleSubmit(async (body) => {
    const added = await add({ params: { site }, body });
    if (!added.data) return;
    draft.forget();
    reset();
  });
  return (
    <form
      onSubmit={submit}
      className="grid gap-2 border-t border-faint pt-2"
      aria-label="New system identifier"
      noValidate
    >
      <DraftNote draft={draft} />
      <div className="grid grid-cols-2 gap-2">
        <Field label="Name" error={errors.name?.message}>
          {(props) => <input {...props} {...register('name')} className="input w-full" maxLength={120} />}
        </Field>
        <Field label="Bytes, in hex" error={errors.bytes?.message}>
          {(props) => <input {...props} {...register('bytes')} className="input w-full font-mono" spellCheck={false} />}
        </Field>
      </div>
      <FailureNote failure={error} />
      <button type="submit" className="btn btn-line btn-small justify-self-start" disabled={isLoading}>
        Add it
      </button>
    </form>
  );
}
