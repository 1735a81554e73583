/** What one key may be used for, with everything that a custodian can take away again, or ask another to widen. */
import type { Key } from '@rawbits/api';
import { useAskForKeyUseMutation, useKeyUsesQuery, useNarrowKeyUseMutation } from '../../../platform/endpoints/keys.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { dayOf } from '../../../platform/words/siteDays.ts';

interface Line {
  id: string;
  /** What it is a use by, and how it is called. */
  what: string;
  name: string;
  by: string;
  at: string;
  /** What takes it away. */
  remove: object;
}

export function KeyUses({ of, open }: { of: Key; open: boolean }) {
  const { id: site, may, zone } = useSite();
  const { data: uses, error } = useKeyUsesQuery(site);
  const [narrow, { error: notNarrowed, isLoading: narrowing }] = useNarrowKeyUseMutation();
  const [ask, { error: notAsked, isLoading: asking }] = useAskForKeyUseMutation();
  const use = uses?.find(({ keyId }) => keyId === of.id);
  if (!use) return error ? <FailureNote failure={error} /> : null;
  const mayChange = may('hold keys') && !of.retiredAt;
  const take = (body: object) => void narrow({ params: { site, id: of.id }, body });
  const lines: Line[] = [
    ...use.plans.map(({ planId, plan, version, by, at }) => ({
      id: `${planId} ${version}`,
      what: 'plan',
      name: `${plan}, from version ${version}`,
      by,
      at,
      remove: { plans: [{ planId, version }] },
    })),
    ...use.readers.map(({ readerId, reader, host, by, at }) => ({
      id: readerId,
      what: 'reader',
      name: `${reader}, offered by ${host}`,
      by,
      at,
      remove: { readers: [readerId] },
    })),
    ...use.hosts.map(({ hostId, host, by, at }) => ({
      id: hostId,
      what: 'pads of',
      name: host,
      by,
      at,
      remove: { hosts: [hostId] },
    })),
  ];
  const flags = [
    ['asItIs', use.asItIs, 'the same key on every card', 'a different key on each card only'],
    ['toReaders', use.toReaders, 'in readers', 'not in readers'],
  ] as const;
  return (
    <section aria-label="May be used for" className="grid gap-1">
      <h3 className="font-bold">May be used for</h3>
      {use.problem && (
        <p className="text-signal" role="alert">
          {use.problem}{' '}
          {mayChange && (
            <button
              type="button"
              className="btn btn-line btn-small"
              disabled={asking}
              onClick={() => void ask({ params: { site }, body: { kind: 'accept', what: 'key', id: of.id } })}
            >
              Ask to accept it as it is now
            </button>
          )}
        </p>
      )}
      <ul className="flex flex-wrap gap-x-5 gap-y-1">
        {flags
          .filter(([name]) => name !== 'asItIs' || of.kind !== 'osdp')
          .map(([name, isAllowed, allowed, not]) => (
            <li key={name} className="flex items-center gap-2">
              {isAllowed ? allowed : not}
              {mayChange && isAllowed && (
                <button
                  type="button"
                  className="btn btn-line btn-small"
                  disabled={narrowing || !open}
                  onClick={() => take({ [name]: false })}
                >
                  Forbid
                </button>
              )}
              {mayChange && !isAllowed && (
                <button
                  type="button"
                  className="btn btn-line btn-small"
                  disabled={asking}
                  onClick={() => void ask({ params: { site }, body: { kind: 'widen', keyId: of.id, [name]: true } })}
                >
                  Ask to allow {name === 'toReaders' ? 'readers' : 'the same key on every card'}
                </button>
              )}
            </li>
          ))}
      </ul>
      {lines.length === 0 && (
        <p className="text-ink-2">No plan, reader or device host yet: each waits for a custodian.</p>
      )}
      {lines.length > 0 && (
        <table className="grid-table">
          <thead>
            <tr>
              <th>used by</th>
              <th>agreed</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {lines.map(({ id, what, name, by, at, remove }) => (
              <tr key={`${what} ${id}`}>
                <td>
                  {what} {name}
                </td>
                <td>
                  {by}, {dayOf(at, zone)}
                </td>
                <td className="text-right">
                  {mayChange && (
                    <button
                      type="button"
                      className="btn btn-line btn-small"
                      disabled={narrowing || !open}
                      title={open ? undefined : 'Unlock the key store first'}
                      onClick={() => take(remove)}
                    >
                      Remove
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {use.readers.length > 0 && (
        <p className="text-ink-2">
          A reader that you remove here gets no new key. It keeps the key it has until it is set up again.
        </p>
      )}
      <FailureNote failure={notNarrowed ?? notAsked} />
    </section>
  );
}
