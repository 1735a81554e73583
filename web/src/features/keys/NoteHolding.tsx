/** Noting by hand what Raw Bits cannot see: that a reader carries a key, that a partner was given it, or has it no more. */

import { type KeyHolding, type KeySet, newHoldingSchema } from '@rawbits/api';
import { DraftNote } from '../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../platform/drafts/useKeptForm.ts';
import { useReadersQuery } from '../../platform/endpoints/doors.ts';
import { useAddHoldingMutation, useEndHoldingMutation } from '../../platform/endpoints/keys.ts';
import { checkedAs } from '../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useSite } from '../../platform/site/useSite.ts';

interface Typed {
  of: string;
  kind: 'reader' | 'partner';
  reader: string;
  partner: string;
}

const bodyOf = ({ of, kind, reader, partner }: Typed) => {
  const [keyId = '', version = ''] = of.split(' ');
  return kind === 'reader' ? { kind, keyId, version, reader } : { kind, keyId, version, partner };
};

export function NoteHolding({ sets, holdings }: { sets: KeySet[]; holdings: KeyHolding[] }) {
  const { id: site } = useSite();
  const { data: readers = [] } = useReadersQuery(site);
  const [add, { error, isLoading }] = useAddHoldingMutation();
  const [end, { error: notEnded }] = useEndHoldingMutation();
  const [form, draft] = useKeptForm('holdings of keys', `${site} new`, {
    resolver: checkedAs(newHoldingSchema, bodyOf),
    defaultValues: { of: '', kind: 'reader' as Typed['kind'], reader: '', partner: '' },
  });
  const { register, handleSubmit, watch, reset, formState } = form;
  const { errors } = formState;
  const versions = sets.flatMap((set) =>
    set.keys.flatMap((key) =>
      key.versions
        .filter(({ state }) => state === 'ready')
        .map(({ version }) => ({ id: `${key.id} ${version}`, name: `${set.name} / ${key.name}, ${version}` })),
    ),
  );
  const nameOf = ({ keyId, version }: KeyHolding) =>
    versions.find(({ id }) => id === `${keyId} ${version}`)?.name ?? 'a destroyed version';
  const open = holdings.filter(({ kind, until }) => (kind === 'reader' || kind === 'partner') && until === null);
  const submit = handleSubmit(async (body) => {
    const added = await add({ params: { site }, body });
    if (!added.data) return;
    draft.forget();
    reset();
  });
  return (
    <section className="panel grid content-start gap-3 p-4" aria-label="Note who has a key">
      <form onSubmit={submit} className="grid gap-2" noValidate>
        <h2>A reader or partner has a key</h2>
        <DraftNote draft={draft} />
        <Field
          label="Key and version"
          error={errors.of?.message ?? (errors as { keyId?: { message?: string } }).keyId?.message}
        >
          {(props) => (
            <select {...props} {...register('of')} className="select w-full">
              <option value="">choose …</option>
              {versions.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          )}
        </Field>
        <div className="flex gap-4">
          {(['reader', 'partner'] as const).map((kind) => (
            <label key={kind} className="flex items-center gap-1.5">
              <input type="radio" value={kind} className="radio radio-xs" {...register('kind')} />
              {kind === 'reader' ? 'a reader carries it' : 'a partner was given it'}
            </label>
          ))}
        </div>
        {watch('kind') === 'reader' ? (
          <Field label="Reader" error={errors.reader?.message}>
            {(props) => (
              <select {...props} {...register('reader')} className="select w-full">
                <option value="">choose …</option>
                {readers.map(({ id, name }) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
              </select>
            )}
          </Field>
        ) : (
          <Field label="Partner" error={errors.partner?.message}>
            {(props) => <input {...props} {...register('partner')} className="input w-full" maxLength={120} />}
          </Field>
        )}
        <FailureNote failure={error} />
        <button type="submit" className="btn btn-primary justify-self-start" disabled={isLoading}>
          Note it
        </button>
      </form>
      {open.length > 0 && (
        <ul className="grid gap-1 border-t border-faint pt-2">
          {open.map((holding) => (
            <li key={holding.id} className="flex items-center gap-2">
              <span className="min-w-0 flex-1">
                {holding.holder}: {nameOf(holding)}
              </span>
              <button
                type="button"
                className="btn btn-line btn-small"
                onClick={() => void end({ site, id: holding.id })}
              >
                no more
              </button>
            </li>
          ))}
        </ul>
      )}
      <FailureNote failure={notEnded} />
    </section>
  );
}
