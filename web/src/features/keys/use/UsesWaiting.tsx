/** New uses of keys that wait for a custodian: what each key will be exposed to, and what whoever has it can do then. */
import type { KeyUseRequest } from '@rawbits/api';
import { useEffect, useState } from 'react';
import {
  useAgreeToKeyUseMutation,
  useKeyUseRequestsQuery,
  useRefuseKeyUseMutation,
} from '../../../platform/endpoints/keys.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useClock } from '../../../platform/site/useClock.ts';
import { useSite } from '../../../platform/site/useSite.ts';

const SUMMARY: Record<KeyUseRequest['kind'], string> = {
  plan: 'Where each key will be, and what a person with the key can do to a card',
  reader: 'Where each key will be, and what a person with the key can do to a card',
  widen: 'What changes',
  accept: 'As it is in the database now',
};

export function UsesWaiting({ open }: { open: boolean | undefined }) {
  const { id: site } = useSite();
  const { data = [], error } = useKeyUseRequestsQuery(site);
  if (data.length === 0 && !error) return null;
  return (
    <section
      className="panel grid max-h-[45vh] shrink-0 gap-2 overflow-auto px-4 py-2 print:hidden"
      aria-label="New uses of keys"
    >
      <h2>New uses of keys, waiting for a custodian</h2>
      <ul className="grid gap-2">
        {data.map((request) => (
          <OneUse key={request.id} request={request} open={open} />
        ))}
      </ul>
      <FailureNote failure={error} />
    </section>
  );
}

/** So long after it came nothing is agreed to: where one goes and another takes its place, a click was meant for the first. */
const SETTLES_MS = 800;
function useSettled(): boolean {
  const [settled, setSettled] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(true), SETTLES_MS);
    return () => clearTimeout(timer);
  }, []);
  return settled;
}

function OneUse({ request, open }: { request: KeyUseRequest; open: boolean | undefined }) {
  const clock = useClock();
  const { id: site, may } = useSite();
  const { id, kind, what, exposure, reach, hosts, notes, askedBy, askedAt, notYou, digest } = request;
  const [agree, { error: notAgreed, isLoading: agreeing }] = useAgreeToKeyUseMutation();
  const [refuse, { error: notRefused, isLoading: refusing }] = useRefuseKeyUseMutation();
  const settled = useSettled();
  const waiting = agreeing || refusing || !settled;
  const isCustodian = may('hold keys');
  return (
    <li className="grid gap-1 border-t border-faint pt-2">
      <div className="flex flex-wrap items-start gap-x-3 gap-y-1">
        <span className="min-w-0 flex-1">
          <strong>{what}</strong>{' '}
          <span className="text-ink-2">
            asked for by {askedBy}, {clock(askedAt)}
          </span>
        </span>
        {isCustodian && notYou === null && (
          <button
            type="button"
            className="btn btn-primary btn-small"
            disabled={waiting || !open}
            title={open === false ? 'Unlock the key store first' : undefined}
            onClick={() => void agree({ params: { site, id }, body: { digest } })}
          >
            Agree
          </button>
        )}
        {notYou !== null && <span className="text-ink-2">{notYou} Another custodian agrees.</span>}
        {(isCustodian || notYou !== null) && (
          <button
            type="button"
            className="btn btn-line btn-small"
            disabled={waiting}
            onClick={() => void refuse({ site, id })}
          >
            {notYou === null ? 'Refuse' : 'Withdraw'}
          </button>
        )}
      </div>
      {notes.map((note) => (
        <p key={note} className="text-signal">
          {note}
        </p>
      ))}
      {hosts.length > 0 && (
        <p>
          {kind === 'reader' ? 'The reader belongs to the device host' : 'On the pads of'}: {hosts.join(', ')}
        </p>
      )}
      <details open>
        <summary>{SUMMARY[kind]}</summary>
        <dl className="grid grid-cols-[minmax(0,14rem)_minmax(0,1fr)] gap-x-3 gap-y-1 py-1 max-md:grid-cols-1">
          {exposure.map(({ key, places }) => (
            <div key={key} className="contents">
              <dt className="font-bold">{key}</dt>
              <dd>{places.join('; ')}</dd>
            </div>
          ))}
          {reach.map(({ key, can }) => (
            <div key={key} className="contents">
              <dt>A person with “{key}” can</dt>
              <dd>{can.length === 0 ? 'nothing more than everybody' : can.join(', ')}</dd>
            </div>
          ))}
        </dl>
      </details>
      <FailureNote failure={notAgreed ?? notRefused} />
    </li>
  );
}
