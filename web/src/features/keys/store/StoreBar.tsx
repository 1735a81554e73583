/** Whether the store is open, for which servers and until when; to unlock and to lock it. */
import { type KeyStore, unlockSchema } from '@rawbits/api';
import { Lock, LockOpen } from 'lucide-react';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { useLockKeyStoreMutation, useUnlockKeyStoreMutation } from '../../../platform/endpoints/keys.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useClock } from '../../../platform/site/useClock.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { ChangePassphrase } from './ChangePassphrase.tsx';

export function StoreBar({ store }: { store: KeyStore }) {
  const { may } = useSite();
  const [changing, setChanging] = useState(false);
  const holding = store.servers.filter(({ holds }) => holds);
  const without = store.servers.filter(({ holds }) => !holds);
  return (
    <section className="panel grid gap-2 px-4 py-2 print:hidden" aria-label="Key store">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <span className={`flex items-center gap-2 font-bold ${store.open ? 'text-primary' : ''}`}>
          {store.open ? <LockOpen size={18} aria-hidden="true" /> : <Lock size={18} aria-hidden="true" />}
          {store.open ? 'The key store is open' : 'The key store is locked'}
        </span>
        {store.open ? <OpenWords store={store} /> : may('hold keys') ? <Unlock /> : <AskForIt />}
        {may('hold keys') && (
          <button
            type="button"
            className="btn btn-line btn-small ml-auto"
            aria-expanded={changing}
            onClick={() => setChanging(!changing)}
          >
            Passphrase …
          </button>
        )}
      </div>
      {store.open && without.length > 0 && (
        <p className="text-signal">
          Open on {holding.map(({ name }) => name).join(', ')}; {without.map(({ name }) => name).join(', ')}{' '}
          {without.length === 1 ? 'has' : 'have'} not taken it over yet, and {without.length === 1 ? 'does' : 'do'}{' '}
          within seconds.
        </p>
      )}
      {changing && <ChangePassphrase onDone={() => setChanging(false)} />}
    </section>
  );
}

const AskForIt = () => <span className="text-ink-2">A key custodian unlocks it.</span>;

function OpenWords({ store }: { store: KeyStore }) {
  const clock = useClock();
  const { id: site, may } = useSite();
  const [lock, { error, isLoading }] = useLockKeyStoreMutation();
  const { openedBy, openedAt, locksAt, servers } = store;
  return (
    <>
      <span className="text-ink-2">
        by {openedBy}, {openedAt && clock(openedAt)}
        {servers.length > 1 ? `, for all ${servers.length} servers` : ''}; locks {locksAt && clock(locksAt)} unless a
        key is used
      </span>
      {may('hold keys') && (
        <button
          type="button"
          className="btn btn-primary btn-small"
          disabled={isLoading}
          onClick={() => void lock(site)}
        >
          Lock
        </button>
      )}
      <FailureNote failure={error} />
    </>
  );
}

function Unlock() {
  const { id: site } = useSite();
  const [unlock, { error, isLoading }] = useUnlockKeyStoreMutation();
  const { register, handleSubmit, getValues, resetField, formState } = useForm({
    resolver: checkedAs(unlockSchema, (typed: { passphrase: string }) => typed),
    defaultValues: { passphrase: '' },
  });
  const submit = handleSubmit(async () => {
    await unlock({ params: { site }, body: { passphrase: getValues('passphrase') } });
    resetField('passphrase');
  });
  return (
    <form onSubmit={submit} className="flex flex-wrap items-center gap-2" aria-label="Unlock" noValidate>
      <input
        {...register('passphrase')}
        type="password"
        autoComplete="off"
        aria-label="Passphrase of the key store"
        placeholder="passphrase"
        className="input w-64 font-mono"
      />
      <button type="submit" className="btn btn-primary btn-small" disabled={isLoading}>
        {isLoading ? 'Unlocking …' : 'Unlock'}
      </button>
      <FailureNote failure={formState.errors.passphrase ?? error} />
    </form>
  );
}
