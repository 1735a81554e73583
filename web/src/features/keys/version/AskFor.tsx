/** Asking for a second custodian: with a reason, which stands in the trail. */

import { type Key, reasonSchema } from '@rawbits/api';
import { z } from 'zod';
import { DraftNote } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useAskForKeyMutation } from '../../../platform/endpoints/keys.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';

const ABOUT = {
  uncover: 'Another custodian agrees at their own sign-in; then the key is shown to you, once. It stands in the trail.',
  destroy:
    'Another custodian agrees at their own sign-in; then this version is gone. Cards that carry it can be read with it no more.',
};

interface Props {
  of: Key;
  kind: 'uncover' | 'destroy';
  version: number;
  onDone: () => void;
}

export function AskFor({ of, kind, version, onDone }: Props) {
  const { id: site } = useSite();
  const [ask, { error, isLoading }] = useAskForKeyMutation();
  const [form, draft] = useKeptForm('asked for a key', `${site} ${of.id} ${version} ${kind}`, {
    resolver: checkedAs(z.strictObject({ reason: reasonSchema }), (typed: { reason: string }) => typed),
    defaultValues: { reason: '' },
  });
  const { register, handleSubmit, formState } = form;
  const submit = handleSubmit(async ({ reason }) => {
    const asked = await ask({ params: { site }, body: { kind, keyId: of.id, version, reason } });
    if (!asked.data) return;
    draft.forget();
    onDone();
  });
  return (
    <form onSubmit={submit} className="grid gap-2 border-t border-faint pt-3" aria-label={`${kind} a key`} noValidate>
      <h2>
        {kind === 'uncover' ? 'Uncover' : 'Destroy'} {of.name}, version {version}
      </h2>
      <p className="text-ink-2">{ABOUT[kind]}</p>
      <DraftNote draft={draft} />
      <Field label="Why" error={formState.errors.reason?.message}>
        {(props) => <input {...props} {...register('reason')} className="input w-full" maxLength={400} />}
      </Field>
      <FailureNote failure={error} />
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary" disabled={isLoading}>
          Ask a second custodian
        </button>
        <button type="button" className="btn btn-line" onClick={onDone}>
          Cancel
        </button>
      </div>
    </form>
  );
}
