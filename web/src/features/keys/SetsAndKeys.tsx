/** The key sets of a site with their keys at the left, one key at the right. */

import { newKeySetSchema } from '@rawbits/api';
import { useEffect, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { DraftNote } from '../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../platform/drafts/useKeptForm.ts';
import { useAddKeySetMutation, useKeySetsQuery } from '../../platform/endpoints/keys.ts';
import { checkedAs } from '../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { ImportKeys } from './ImportKeys.tsx';
import { KeyList } from './KeyList.tsx';
import { NewKey } from './version/NewKey.tsx';
import { OneKey } from './version/OneKey.tsx';

type Doing = 'key' | 'set' | 'import' | undefined;

export function SetsAndKeys({ open }: { open: boolean }) {
  const { id: site, may } = useSite();
  const navigate = useNavigate();
  const { key: chosenId } = useParams();
  const { data: sets = [], error } = useKeySetsQuery(site);
  const [doing, setDoing] = useState<Doing>();
  const keys = sets.flatMap((set) => set.keys);
  const chosen = keys.find(({ id }) => id === chosenId) ?? keys[0];
  // The one that is shown first stands in the address, too: what is added elsewhere does not put another in its place.
  const first = chosenId === undefined ? chosen?.id : undefined;
  useEffect(() => {
    if (first) void navigate(`/${site}/keys/${first}`, { replace: true });
  }, [first, site, navigate]);
  const show = (id: string) => {
    setDoing(undefined);
    void navigate(`/${site}/keys/${id}`);
  };
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,19rem)_minmax(0,1fr)] gap-3 max-md:grid-cols-1 print:block">
      <section className="panel flex min-h-0 flex-col gap-2 p-3 print:hidden" aria-label="Key sets">
        <KeyList sets={sets} chosen={doing ? undefined : chosen?.id} onOpen={() => setDoing(undefined)} />
        <FailureNote failure={error} />
        {may('hold keys') && (
          <div className="flex flex-wrap gap-2 border-t border-faint pt-2">
            <button type="button" className="btn btn-line btn-small" onClick={() => setDoing('set')}>
              New set …
            </button>
            <button
              type="button"
              className="btn btn-line btn-small"
              disabled={sets.length === 0 || !open}
              title={open ? undefined : 'Unlock the key store first'}
              onClick={() => setDoing('key')}
            >
              New key …
            </button>
            <button
              type="button"
              className="btn btn-line btn-small"
              disabled={!open}
              title={open ? undefined : 'Unlock the key store first'}
              onClick={() => setDoing('import')}
            >
              Import …
            </button>
          </div>
        )}
      </section>
      {doing === 'set' && <NewSet onDone={() => setDoing(undefined)} />}
      {doing === 'key' && <NewKey sets={sets} set={chosen?.setId} onDone={() => setDoing(undefined)} onAdded={show} />}
      {doing === 'import' && <ImportKeys onDone={() => setDoing(undefined)} />}
      {!doing && chosen && (
        <OneKey key={chosen.id} of={chosen} set={sets.find(({ id }) => id === chosen.setId)?.name ?? ''} open={open} />
      )}
      {!doing && !chosen && (
        <p className="panel p-4 text-ink-2">
          {sets.length === 0
            ? 'No key set yet. A set holds the keys that belong together: those of the staff’s cards, for one. Begin with "New set".'
            : 'No key yet. "New key" makes one here, takes one in, or has custodians put one together.'}
        </p>
      )}
    </div>
  );
}

function NewSet({ onDone }: { onDone: () => void }) {
  const { id: site } = useSite();
  const [add, { error, isLoading }] = useAddKeySetMutation();
  const [form, draft] = useKeptForm('key sets', `${site} new`, {
    resolver: checkedAs(newKeySetSchema, (typed: { name: string; notes: string }) => typed),
    defaultValues: { name: '', notes: '' },
  });
  const { register, handleSubmit, formState } = form;
  const { errors } = formState;
  const submit = handleSubmit(async (body) => {
    const added = await add({ params: { site }, body });
    if (!added.data) return;
    draft.forget();
    onDone();
  });
  return (
    <form onSubmit={submit} className="panel grid content-start gap-3 p-4" aria-label="New key set" noValidate>
      <h2>New key set</h2>
      <DraftNote draft={draft} />
      <label className="grid max-w-md gap-1">
        <span className="field-label">Name</span>
        <input {...register('name')} className="input w-full" maxLength={120} placeholder="Staff cards" />
        {errors.name && <span className="font-bold text-signal">{errors.name.message}</span>}
      </label>
      <label className="grid max-w-md gap-1">
        <span className="field-label">Notes</span>
        <input {...register('notes')} className="input w-full" maxLength={2000} />
      </label>
      <FailureNote failure={error} />
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary" disabled={isLoading}>
          Add it
        </button>
        <button type="button" className="btn btn-line" onClick={onDone}>
          Cancel
        </button>
      </div>
    </form>
  );
}
