/** Trail: what happened at the doors and who changed what, in one order; and whether the record is as it was written. */
import type { TrailEntry } from '@rawbits/core/api';
import { useMemo, useState } from 'react';
import { EventLine } from '../doors/EventList.tsx';
import { useEventsQuery } from '../doors/endpoints.ts';
import { useSite } from '../frame/useSite.ts';
import { FailureNote } from '../shared/FailureNote.tsx';
import { clock } from '../shared/time.ts';
import { differingFields } from './difference.ts';
import { useLazyVerifyTrailQuery, useTrailQuery } from './endpoints.ts';
import { matches, mergeByTime } from './merge.ts';

type Shown = 'all' | 'events' | 'changes';

export function TrailScreen() {
  const { id } = useSite();
  const trail = useTrailQuery(id);
  const events = useEventsQuery({ site: id, limit: 200 });
  const [shown, setShown] = useState<Shown>('all');
  const [search, setSearch] = useState('');
  const [verify, verification] = useLazyVerifyTrailQuery();
  const rows = useMemo(
    () =>
      mergeByTime(shown === 'changes' ? [] : (events.data ?? []), shown === 'events' ? [] : (trail.data ?? [])).filter(
        (row) => matches(row, search),
      ),
    [shown, events.data, trail.data, search],
  );
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>Trail</h1>
        <span className="flex gap-2">
          {(['all', 'events', 'changes'] as const).map((name) => (
            <button
              key={name}
              type="button"
              className="switch-link"
              aria-pressed={shown === name}
              onClick={() => setShown(name)}
            >
              {name}
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
        <span className="ml-auto flex items-center gap-3">
          {verification.data && (
            <span role="status" className={verification.data.intact ? 'text-primary' : 'font-bold text-signal'}>
              {verification.data.message}
            </span>
          )}
          <button
            type="button"
            className="btn btn-line"
            disabled={verification.isFetching}
            onClick={() => void verify(id)}
          >
            Verify the record
          </button>
        </span>
      </div>
      <FailureNote failure={trail.error ?? events.error ?? verification.error} />
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
