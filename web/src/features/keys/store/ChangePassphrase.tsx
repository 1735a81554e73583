/** Another passphrase for the store, and giving it up where the passphrase is lost. */
import { changePassphraseSchema, reasonSchema } from '@rawbits/api';
import { useForm } from 'react-hook-form';
import { z } from 'zod';
import { useAskForKeyMutation, useChangePassphraseMutation } from '../../../platform/endpoints/keys.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { WhenLost } from './MakeStore.tsx';
import { PassphraseField } from './PassphraseField.tsx';

export function ChangePassphrase({ onDone }: { onDone: () => void }) {
  return (
    <div className="grid grid-cols-2 gap-6 border-t border-faint py-2 max-md:grid-cols-1">
      <Change onDone={onDone} />
      <GiveUp onDone={onDone} />
    </div>
  );
}

function Change({ onDone }: { onDone: () => void }) {
  const { id: site } = useSite();
  const [change, { error, isLoading }] = useChangePassphraseMutation();
  const { register, handleSubmit, getValues, formState } = useForm({
    resolver: checkedAs(changePassphraseSchema, (typed: { current: string; next: string }) => typed),
    defaultValues: { current: '', next: '' },
  });
  const { errors } = formState;
  const submit = handleSubmit(async () => {
    const done = await change({ params: { site }, body: getValues() });
    if (done.data) onDone();
  });
  return (
    <form onSubmit={submit} className="grid content-start gap-2" aria-label="Change the passphrase" noValidate>
      <h2>Change the passphrase</h2>
      <PassphraseField label="The one now" error={errors.current?.message}>
        {register('current')}
      </PassphraseField>
      <PassphraseField label="The new one" hint="At least 12 characters" error={errors.next?.message} fresh>
        {register('next')}
      </PassphraseField>
      <FailureNote failure={error} />
      <button type="submit" className="btn btn-primary justify-self-start" disabled={isLoading}>
        Change it
      </button>
    </form>
  );
}

function GiveUp({ onDone }: { onDone: () => void }) {
  const { id: site } = useSite();
  const [ask, { error, isLoading }] = useAskForKeyMutation();
  const { register, handleSubmit, formState } = useForm({
    resolver: checkedAs(z.strictObject({ reason: reasonSchema }), (typed: { reason: string }) => typed),
    defaultValues: { reason: '' },
  });
  const submit = handleSubmit(async ({ reason }) => {
    const asked = await ask({ params: { site }, body: { kind: 'abandon', reason } });
    if (asked.data) onDone();
  });
  return (
    <form onSubmit={submit} className="grid content-start gap-2" aria-label="Give the store up" noValidate>
      <h2>When nobody knows it any more</h2>
      <WhenLost />
      <Field label="Why the store is to be given up" error={formState.errors.reason?.message}>
        {(props) => <input {...props} {...register('reason')} className="input w-full" maxLength={400} />}
      </Field>
      <FailureNote failure={error} />
      <button type="submit" className="btn btn-line justify-self-start" disabled={isLoading}>
        Ask a second custodian to give it up
      </button>
    </form>
  );
}
