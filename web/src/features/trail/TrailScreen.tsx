/** Trail: what happened at the doors and who changed what, in one order; and whether the record is as it was written. */
import type { TrailEntry } from '@rawbits/api';
import { useMemo, useState } from 'react';
import { EventLine } from '../../parts/events/EventList.tsx';
import { useEventsQuery } from '../../platform/endpoints/doors.ts';
import { useHouseTrailQuery, useTrailQuery } from '../../platform/endpoints/trail.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { clock } from '../../platform/words/time.ts';
import { differingFields } from './difference.ts';
import { matches, mergeByTime } from './merge.ts';
import { Verification } from './Verification.tsx';

type Shown = 'all' | 'events' | 'changes' | 'house';
const NAMES: Record<Shown, string> = {
  all: 'all',
  events: 'events',
  changes: 'changes',
  house: 'sign-ins, operators, library',
};

export function TrailScreen() {
  const { id, may } = useSite();
  const [shown, setShown] = useState<Shown>('all');
  const [search, setSearch] = useState('');
  const [verifying, setVerifying] = useState(false);
  const { rows, error } = useRows(id, shown, search);
  const record = shown === 'house' ? null : id;
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>Trail</h1>
        <span className="flex gap-2">
          {(Object.keys(NAMES) as Shown[])
            .filter((name) => name !== 'house' || may('keep the trail'))
            .map((name) => (
              <button
                key={name}
                type="button"
                className="switch-link"
                aria-pressed={shown === name}
                onClick={() => {
                  setShown(name);
                  setVerifying(false);
                }}
              >
                {NAMES[name]}
              </button>
            ))}
        </span>
        <input
          data-search
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          placeholder="who, what, door, number"
          aria-label="Search the trail"
          className="input w-56"
        />
        <button type="button" className="btn btn-line ml-auto" onClick={() => setVerifying(true)} disabled={verifying}>
          Verify the record
        </button>
      </div>
      {verifying && <Verification key={record} site={record} onClose={() => setVerifying(false)} />}
      <FailureNote failure={error} />
      <section className="panel min-h-0 flex-1 overflow-auto px-3" aria-label="What happened, newest first">
        <ul>
          {rows.map((row) =>
            row.kind === 'event' ? (
              <EventLine key={row.event.id} event={row.event} />
            ) : (
              <ChangeLine key={row.change.seq} change={row.change} />
            ),
          )}
          {rows.length === 0 && (
            <li className="py-3 text-ink-2">{search ? 'Nothing here has that.' : 'Nothing has happened yet.'}</li>
          )}
        </ul>
      </section>
    </div>
  );
}

const NONE: never[] = [];

function useRows(site: string, shown: Shown, search: string) {
  const trail = useTrailQuery(site);
  const events = useEventsQuery({ site, limit: 200 });
  const house = useHouseTrailQuery(undefined, { skip: shown !== 'house' });
  const rows = useMemo(() => {
    const changes = shown === 'house' ? house.data : shown === 'events' ? NONE : trail.data;
    const happened = shown === 'all' || shown === 'events' ? events.data : NONE;
    return mergeByTime(happened ?? NONE, changes ?? NONE).filter((row) => matches(row, search));
  }, [shown, events.data, trail.data, house.data, search]);
  return { rows, error: trail.error ?? events.error ?? house.error };
}

function ChangeLine({ change }: { change: TrailEntry }) {
  const fields = differingFields(change.before, change.after);
  return (
    <li className="grid grid-cols-[7.5rem_5rem_minmax(0,1fr)] gap-x-3 border-t border-faint py-1.5">
      <span className="text-ink-2">{clock(change.at)}</span>
      <span className="text-ink-2">change</span>
      <span className="min-w-0">
        <strong>{change.operator}</strong>: {change.action}, {change.subject}
        {fields.length > 0 && (
          <details>
            <summary className="cursor-pointer text-ink-2">before and after</summary>
            <table className="grid-table my-1 max-w-3xl">
              <tbody>
                {fields.map(({ field, before, after }) => (
                  <tr key={field}>
                    <td className="text-ink-2">{field}</td>
                    <td className="font-mono break-all">{before ?? '–'}</td>
                    <td className="font-mono break-all">{after ?? '–'}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </details>
        )}
      </span>
    </li>
  );
}
