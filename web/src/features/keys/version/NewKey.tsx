/** A new key in a set. */

import { KEY_PURPOSES, type KeySet, newKeySchema } from '@rawbits/api';
import { KEY_KINDS, type KeyKind } from '@rawbits/core/key';
import type { UseFormReturn } from 'react-hook-form';
import { DraftNote } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useAddKeyMutation } from '../../../platform/endpoints/keys.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { KIND_WORDS } from '../words/words.ts';
import { ComesFields } from './ComesFields.tsx';
import { type ComesTyped, emptyComes, versionBodyOf } from './comes.ts';

interface Typed extends ComesTyped {
  setId: string;
  name: string;
  kind: string;
  purpose: string;
  notes: string;
  asItIs: boolean;
  toReaders: boolean;
}

/** No card key is made from these: they are used as they are, or not at all. */
const ONLY_AS_IT_IS = ['sector', 'tag'];

interface Props {
  sets: KeySet[];
  /** The one that it is likely to belong to. */
  set?: string;
  onDone: () => void;
  onAdded: (id: string) => void;
}

export function NewKey({ sets, set, onDone, onAdded }: Props) {
  const { id: site, zone } = useSite();
  const [add, { error, isLoading }] = useAddKeyMutation();
  const bodyOf = ({ setId, name, kind, purpose, notes, asItIs, toReaders, ...comes }: Typed) => ({
    setId,
    name,
    kind: kind as KeyKind,
    purpose: purpose as (typeof KEY_PURPOSES)[number],
    notes,
    allows: { toReaders, asItIs: asItIs || ONLY_AS_IT_IS.includes(kind) },
    ...versionBodyOf(comes, zone),
  });
  const [form, draft] = useKeptForm('keys', `${site} new`, {
    secret: ['hex'],
    resolver: checkedAs(newKeySchema, bodyOf),
    defaultValues: {
      setId: set ?? sets[0]?.id ?? '',
      name: '',
      kind: 'aes128',
      purpose: 'read',
      notes: '',
      asItIs: false,
      toReaders: false,
      ...emptyComes(1),
    },
  });
  const { register, handleSubmit, watch, getValues, formState } = form;
  const { errors } = formState;
  const submit = handleSubmit(async () => {
    // What was typed, not what the schema makes of it: a checked key is a secret that does not print itself.
    const added = await add({ params: { site }, body: bodyOf(getValues()) });
    if (!added.data) return;
    draft.forget();
    onAdded(added.data.id);
  });
  return (
    <form
      onSubmit={submit}
      className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4"
      aria-label="New key"
      noValidate
    >
      <h2>New key</h2>
      <DraftNote draft={draft} />
      <div className="grid grid-cols-2 gap-3 max-lg:grid-cols-1">
        <Field label="Set">
          {(props) => (
            <select {...props} {...register('setId')} className="select w-full">
              {sets.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          )}
        </Field>
        <Field label="Name" error={errors.name?.message}>
          {(props) => <input {...props} {...register('name')} className="input w-full" maxLength={120} />}
        </Field>
        <Field label="Kind">
          {(props) => (
            <select {...props} {...register('kind')} className="select w-full">
              {KEY_KINDS.map((kind) => (
                <option key={kind} value={kind}>
                  {KIND_WORDS[kind]}
                </option>
              ))}
            </select>
          )}
        </Field>
        <Field label="What it is for">
          {(props) => (
            <select {...props} {...register('purpose')} className="select w-full">
              {KEY_PURPOSES.map((purpose) => (
                <option key={purpose}>{purpose}</option>
              ))}
            </select>
          )}
        </Field>
      </div>
      <ComesFields
        form={form as unknown as UseFormReturn<ComesTyped>}
        kind={watch('kind') as KeyKind}
        errors={errors}
      />
      <fieldset className="grid gap-1">
        <legend className="field-label">May be used</legend>
        {!ONLY_AS_IT_IS.includes(watch('kind')) && (
          <label className="flex items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-sm" {...register('asItIs')} />
            as the same key on every card (otherwise each card has its own key, made from this one)
          </label>
        )}
        <label className="flex items-center gap-2">
          <input type="checkbox" className="checkbox checkbox-sm" {...register('toReaders')} />
          in readers
        </label>
        <p className="text-ink-2">
          A custodian must agree to each plan, reader and device host. To allow more later takes two custodians.
        </p>
      </fieldset>
      <Field label="Notes">
        {(props) => <input {...props} {...register('notes')} className="input w-full" maxLength={2000} />}
      </Field>
      <FailureNote failure={error} />
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary" disabled={isLoading}>
          Add the key
        </button>
        <button type="button" className="btn btn-line" onClick={onDone}>
          Cancel
        </button>
      </div>
    </form>
  );
}
