/** Keys: the store and whether it is open; sets and keys by their check values; who holds what; backups. */
import { lazy, Suspense } from 'react';
import { useSearchParams } from 'react-router';
import { KeysReady } from '../../parts/keysReady/KeysReady.tsx';
import { useKeyStoreQuery } from '../../platform/endpoints/keys.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { Requests } from './Requests.tsx';
import { SetsAndKeys } from './SetsAndKeys.tsx';
import { MakeStore } from './store/MakeStore.tsx';
import { StoreBar } from './store/StoreBar.tsx';
import { UsesWaiting } from './use/UsesWaiting.tsx';

const WhoHolds = lazy(async () => ({ default: (await import('./WhoHolds.tsx')).WhoHolds }));
const Diversify = lazy(async () => ({ default: (await import('./Diversify.tsx')).Diversify }));
const Backups = lazy(async () => ({ default: (await import('./Backups.tsx')).Backups }));

const PARTS = [
  ['keys', 'Sets and keys'],
  ['holders', 'Who holds what'],
  ['diversify', 'Keys per card'],
  ['backups', 'Backups'],
] as const;

export function KeysScreen() {
  const { id, may } = useSite();
  const [params, setParams] = useSearchParams();
  const part = PARTS.find(([name]) => name === params.get('part'))?.[0] ?? 'keys';
  const { data: store, error } = useKeyStoreQuery(id);
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 print:hidden">
        <h1>Keys</h1>
        <nav aria-label="Parts of Keys" className="flex flex-wrap gap-x-2">
          {PARTS.filter(([name]) => name !== 'backups' || may('hold keys')).map(([name, words]) => (
            <button
              key={name}
              type="button"
              className="switch-link"
              aria-pressed={part === name}
              onClick={() => setParams(name === 'keys' ? {} : { part: name })}
            >
              {words}
            </button>
          ))}
        </nav>
      </div>
      <FailureNote failure={error} />
      {part !== 'diversify' && <KeysReady />}
      {store && part !== 'diversify' && (store.set ? <StoreBar store={store} /> : <MakeStore />)}
      {may('hold keys') && part !== 'diversify' && <Requests />}
      {part !== 'diversify' && <UsesWaiting open={store?.open} />}
      <Suspense fallback={<p>Loading …</p>}>
        {part === 'keys' && store?.set && <SetsAndKeys open={store.open} />}
        {part === 'holders' && <WhoHolds />}
        {part === 'diversify' && <Diversify />}
        {part === 'backups' && may('hold keys') && store?.set && <Backups open={store.open} />}
      </Suspense>
    </div>
  );
}
