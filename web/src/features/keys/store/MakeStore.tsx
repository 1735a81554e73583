/** The first thing to do: a key store with its passphrase, and what is lost with that. */
import { makeStoreSchema } from '@rawbits/api';
import { useForm } from 'react-hook-form';
import { z } from 'zod';
import { useMakeKeyStoreMutation } from '../../../platform/endpoints/keys.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { PassphraseField } from './PassphraseField.tsx';

const schema = makeStoreSchema
  .extend({ again: z.string(), typed: z.string() })
  .refine(({ again, typed }) => again === typed, { path: ['again'], message: 'This is not the same passphrase.' });

/** What can be done without the passphrase, and what cannot. */
export function WhenLost() {
  return (
    <div className="text-ink-2">
      <p>
        <strong className="text-base-content">If the passphrase is lost:</strong> cards and readers go on working, and
        so does everything else in Raw Bits. No key can be used, made or uncovered any more, by nobody. What brings the
        keys back is a backup with both parts of its own passphrase, or the component sheets. Keep one of them outside.
      </p>
    </div>
  );
}

export function MakeStore() {
  const { id: site, may } = useSite();
  const [make, { error, isLoading }] = useMakeKeyStoreMutation();
  const { register, handleSubmit, getValues, formState } = useForm({
    resolver: checkedAs(schema, (typed: { passphrase: string; again: string }) => ({
      ...typed,
      typed: typed.passphrase,
    })),
    defaultValues: { passphrase: '', again: '' },
  });
  const { errors } = formState;
  if (!may('hold keys'))
    // What is missing stands above this (`KeysReady`).
    return null;
  return (
    <form
      onSubmit={handleSubmit(() => make({ params: { site }, body: { passphrase: getValues('passphrase') } }))}
      className="panel grid max-w-2xl gap-3 p-4"
      aria-label="Make the key store"
      noValidate
    >
      <h2>Make the key store</h2>
      <p>
        Keys are kept encrypted under a passphrase. It is asked for after every start, and after a while in which nobody
        used a key. Every key custodian of this site should know it.
      </p>
      <WhenLost />
      <div className="grid grid-cols-2 gap-3 max-md:grid-cols-1">
        <PassphraseField
          label="Passphrase"
          hint="At least 12 characters; several words that do not belong together"
          error={errors.passphrase?.message}
          fresh
        >
          {register('passphrase')}
        </PassphraseField>
        <PassphraseField label="Once more" error={errors.again?.message} fresh>
          {register('again')}
        </PassphraseField>
      </div>
      <FailureNote failure={error} />
      <button type="submit" className="btn btn-primary justify-self-start" disabled={isLoading}>
        Make it
      </button>
    </form>
  );
}
