/** What waits for a second custodian, to agree or refuse; and a key that was agreed on, to be looked at once. */
import type { KeyRequest } from '@rawbits/api';
import { useState } from 'react';
import { ShownOnce } from '../../parts/secret/ShownOnce.tsx';
import {
  useAgreeOnKeyMutation,
  useKeyRequestsQuery,
  useRefuseKeyMutation,
  useSeeKeyMutation,
  useTakeSealedMutation,
} from '../../platform/endpoints/keys.ts';
import { download } from '../../platform/files/download.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { grouped } from './words/words.ts';

export function Requests() {
  const { id: site } = useSite();
  const { data = [], error } = useKeyRequestsQuery(site);
  const [see, { data: seen, error: unseen, reset }] = useSeeKeyMutation();
  if (data.length === 0 && !seen && !error) return null;
  return (
    <section className="panel grid gap-2 px-4 py-2 print:hidden" aria-label="Waiting for a second custodian">
      <h2>Waiting for a second custodian</h2>
      <ul className="grid gap-2">
        {data.map((request) => (
          <OneRequest key={request.id} request={request} onSee={() => void see({ site, id: request.id })} />
        ))}
      </ul>
      <FailureNote failure={unseen ?? error} />
      {seen && (
        <ShownOnce name={`${seen.name}, version ${seen.version}`} what="key" text={grouped(seen.hex)} onDone={reset} />
      )}
    </section>
  );
}

function OneRequest({ request, onSee }: { request: KeyRequest; onSee: () => void }) {
  const clock = useClock();
  const { id: site } = useSite();
  const { id, kind, what, reason, askedBy, askedAt, endsAt, state, agreedBy, mine } = request;
  const [agree, { error: notAgreed, isLoading: agreeing }] = useAgreeOnKeyMutation();
  const [refuse, { error: notRefused, isLoading: refusing }] = useRefuseKeyMutation();
  const [take, { error: notTaken }] = useTakeSealedMutation();
  const takeSealed = () =>
    void take({ site, id }).then(({ data }) => data && download(data.name, data.jwe, 'application/jose'));
  const [part, setPart] = useState('');
  const waiting = agreeing || refusing;
  const submit = () =>
    void agree({ params: { site, id }, body: kind === 'backup' ? { part } : {} }).then(
      ({ data }) => data && setPart(''),
    );
  return (
    <li className="grid gap-1 border-t border-faint pt-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <span className="min-w-0 flex-1">
          <strong>{what}</strong>: {reason}{' '}
          <span className="text-ink-2">
            {mine ? 'you' : askedBy}, {clock(askedAt)}
            {state === 'agreed' ? `; ${agreedBy} agreed, to be looked at until ${clock(endsAt)}` : ''}
          </span>
        </span>
        {state === 'agreed' && mine && (
          <button type="button" className="btn btn-primary btn-small" onClick={kind === 'seal' ? takeSealed : onSee}>
            {kind === 'seal' ? 'Take the sealed file' : 'Show the key, once'}
          </button>
        )}
        {state === 'open' && mine && <span className="text-ink-2">another custodian has to agree</span>}
        {state === 'open' && !mine && (
          <>
            {kind === 'backup' && (
              <input
                type="password"
                autoComplete="new-password"
                aria-label="Second part of the backup’s passphrase"
                placeholder="second part of its passphrase"
                className="input w-64 font-mono"
                value={part}
                onChange={(event) => setPart(event.target.value)}
              />
            )}
            <button type="button" className="btn btn-primary btn-small" disabled={waiting} onClick={submit}>
              Agree
            </button>
          </>
        )}
        <button
          type="button"
          className="btn btn-line btn-small"
          disabled={waiting}
          onClick={() => void refuse({ site, id })}
        >
          {mine ? 'Take back' : 'Refuse'}
        </button>
      </div>
      <FailureNote failure={notAgreed ?? notRefused ?? notTaken} />
    </li>
  );
}
