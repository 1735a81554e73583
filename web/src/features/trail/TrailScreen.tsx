/** Trail: what happened at the doors and who changed what, in one order; and whether the record is as it was written. */
import type { Happened, TrailEntry } from '@rawbits/api';
import { useDeferredValue, useMemo, useState } from 'react';
import { ChangeLine } from '../../parts/changes/ChangeLine.tsx';
import { sentenceOf } from '../../parts/changes/sentences.ts';
import { EventLine } from '../../parts/events/EventList.tsx';
import { useKeptFilter } from '../../platform/drafts/useKeptFilter.ts';
import {
  useHappenedInfiniteQuery,
  useHouseTrailQuery,
  useNewestQuery,
  useSealingQuery,
} from '../../platform/endpoints/trail.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { beginningOf, endOf, zoneHint } from '../../platform/words/siteDays.ts';
import { byDay, dayInWords, timeOfDay } from './days.ts';
import { Verification } from './Verification.tsx';

type Shown = 'all' | 'events' | 'changes' | 'house';
const NAMES: Record<Shown, string> = {
  all: 'all',
  events: 'events',
  changes: 'changes',
  house: 'sign-ins, operators, library',
};

interface Sought {
  shown: Shown;
  search: string;
  /** Days of the site; empty for no limit. */
  from: string;
  to: string;
}

const EVERYTHING: Sought = { shown: 'all', search: '', from: '', to: '' };

export function TrailScreen() {
  const { id, zone } = useSite();
  const [sought, setSought] = useKeptFilter<Sought>(`${id} trail`, EVERYTHING);
  const [verifying, setVerifying] = useState(false);
  const { rows, error, more, isFetching, newer } = useRows(id, zone, useDeferredValue(sought));
  const record = sought.shown === 'house' ? null : id;
  const filtered = sought.search !== '' || sought.from !== '' || sought.to !== '';
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <Head
        sought={sought}
        onSought={(change) => {
          setSought({ ...sought, ...change });
          if (change.shown) setVerifying(false);
        }}
        verifying={verifying}
        onVerify={() => setVerifying(true)}
      />
      {zoneHint(zone) && <p className="text-ink-2">Days and times are those of the site, in {zone}.</p>}
      <NotSealed site={id} />
      {verifying && <Verification key={record} site={record} onClose={() => setVerifying(false)} />}
      <FailureNote failure={error} />
      <section className="panel min-h-0 flex-1 overflow-auto px-3" aria-label="What happened, newest first">
        {newer && (
          <button type="button" className="btn btn-line my-2" disabled={isFetching} onClick={newer}>
            Show what happened since
          </button>
        )}
        {byDay(rows, zone).map(({ day, rows: ofDay }) => (
          <section key={day} aria-label={dayInWords(day)}>
            <h2 className="sticky top-0 bg-base-100 py-1.5 text-ink-2">{dayInWords(day)}</h2>
            <ul>
              {ofDay.map((row) =>
                row.kind === 'event' ? (
                  <EventLine key={row.event.id} event={row.event} time={timeOfDay(row.at, zone)} />
                ) : (
                  <ChangeLine key={row.change.name} change={row.change} time={timeOfDay(row.at, zone)} />
                ),
              )}
            </ul>
          </section>
        ))}
        {rows.length === 0 && (
          <p className="py-3 text-ink-2">
            {isFetching ? 'Loading …' : filtered ? 'Nothing here has that.' : 'Nothing has happened yet.'}
          </p>
        )}
        {more && (
          <button type="button" className="btn btn-line my-3" disabled={isFetching} onClick={more}>
            What was before
          </button>
        )}
      </section>
    </div>
  );
}

/** Says so where new entries are not sealed: until they are, a change of them would not show. */
function NotSealed({ site }: { site: string }) {
  const { data } = useSealingQuery(site, { pollingInterval: 10_000 });
  const clock = useClock();
  if (!data?.failsSince) return null;
  return (
    <p role="alert" className="font-bold text-signal">
      New entries have not been sealed into this record since {clock(data.failsSince)}. Verify the record, and look into
      the server’s log.
    </p>
  );
}

interface HeadProps {
  sought: Sought;
  onSought: (change: Partial<Sought>) => void;
  verifying: boolean;
  onVerify: () => void;
}

function Head({ sought, onSought, verifying, onVerify }: HeadProps) {
  const { zone, may } = useSite();
  const shown = (Object.keys(NAMES) as Shown[]).filter((name) => name !== 'house' || may('keep the trail'));
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
      <h1>Trail</h1>
      <span className="flex gap-2">
        {shown.map((name) => (
          <button
            key={name}
            type="button"
            className="switch-link"
            aria-pressed={sought.shown === name}
            onClick={() => onSought({ shown: name })}
          >
            {NAMES[name]}
          </button>
        ))}
      </span>
      <input
        data-search
        value={sought.search}
        onChange={(event) => onSought({ search: event.target.value })}
        placeholder="who, what, door, number"
        aria-label="Search the trail"
        className="input w-52"
      />
      {(['from', 'to'] as const).map((end) => (
        <label key={end} className="flex items-center gap-2 text-ink-2" title={zoneHint(zone)}>
          {end === 'from' ? 'from' : 'through'}
          <input
            type="date"
            value={sought[end]}
            onChange={(event) => onSought({ [end]: event.target.value })}
            className="input w-36"
          />
        </label>
      ))}
      <button type="button" className="btn btn-line ml-auto" onClick={onVerify} disabled={verifying}>
        Verify the record
      </button>
    </div>
  );
}

type Row = Happened['rows'][number];

const asRow = (change: TrailEntry): Row => ({ kind: 'change', at: change.at, change });

/** Whether every word stands somewhere in what is told of a change. */
const tells = (change: TrailEntry, search: string): boolean => {
  const text = `${change.operator} ${sentenceOf(change)} ${JSON.stringify(change)}`.toLowerCase();
  return search
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
};

function useRows(site: string, zone: string, { shown, search, from, to }: Sought) {
  const limits = {
    from: beginningOf(from, zone) ?? undefined,
    to: endOf(to, zone) ?? undefined,
  };
  const sought = {
    site,
    show: shown === 'house' ? ('all' as const) : shown,
    search: search.trim() || undefined,
    ...limits,
  };
  const happened = useHappenedInfiniteQuery(sought, { skip: shown === 'house' });
  const pages = happened.data?.pages ?? [];
  const { data: newest } = useNewestQuery(sought, { skip: pages.length < 2 });
  const since = newest?.rows[0] && JSON.stringify(newest.rows[0]) !== JSON.stringify(pages[0]?.rows[0]);
  const house = useHouseTrailQuery(undefined, { skip: shown !== 'house' });
  const rows = useMemo<Row[]>(() => {
    if (shown !== 'house') return happened.data?.pages.flatMap((page) => page.rows) ?? [];
    return (house.data ?? [])
      .filter(({ at }) => (!limits.from || at >= limits.from) && (!limits.to || at < limits.to))
      .filter((change) => tells(change, search))
      .map(asRow);
  }, [shown, happened.data, house.data, search, limits.from, limits.to]);
  const asked = shown === 'house' ? house : happened;
  return {
    rows,
    error: asked.error,
    isFetching: asked.isFetching,
    /** Set where there is more since what was scrolled back to. */
    newer: pages.length > 1 && since ? () => void happened.refetch() : undefined,
    more: shown !== 'house' && happened.hasNextPage ? () => void happened.fetchNextPage() : undefined,
  };
}
