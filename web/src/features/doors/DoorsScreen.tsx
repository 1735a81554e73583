/** Doors: each controller with what it should have and what it has, loading, and the last events. */
import { useRef } from 'react';
import { Link, useSearchParams } from 'react-router';
import { EventList } from '../../parts/events/EventList.tsx';
import { useControllersQuery } from '../../platform/endpoints/doors.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { ControllerStack } from './ControllerStack.tsx';
import { DoorTabs } from './DoorTabs.tsx';
import { AddDevices } from './devices/AddDevices.tsx';
import { ReaderList } from './readers/ReaderList.tsx';

/** So many controllers are named in a sentence; of more their number. */
const NAMED = 6;

export function DoorsScreen() {
  const { id, site, may } = useSite();
  const [query] = useSearchParams();
  const { data = [], error, isLoading } = useControllersQuery(id);
  const isSilent = ({ standing }: (typeof data)[number]) => standing === 'no answer';
  const waiting = data.filter((one) => one.standing !== 'current' && !isSilent(one));
  const silent = data.filter(isSilent);
  const names = (some: typeof data) => {
    const more = some.length - NAMED;
    return [...some.slice(0, NAMED).map(({ name }) => name), ...(more > 0 ? [`${more} more`] : [])].join(', ');
  };
  const lead = query.get('controller');
  const scroller = useRef<HTMLDivElement>(null);
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-3">
        <h1>Doors</h1>
        <DoorTabs />
        <span className={waiting.length + silent.length > 0 ? 'text-signal' : 'text-ink-2'}>
          {isLoading && 'Loading …'}
          {data.length > 0 && waiting.length + silent.length === 0 && 'every controller is current'}
          {waiting.length > 0 && `${names(waiting)}: changes not loaded. `}
          {silent.length > 0 && `${names(silent)}: no answer, so what it holds is not known.`}
        </span>
        {may('set up doors') && <AddDevices controllers={data} />}
      </div>
      <FailureNote failure={error} />
      {!isLoading && data.length === 0 && !error && (
        <p>
          This site has no controllers yet. Add one{site?.hasRig ? '' : ', or '}
          {site && !site.hasRig && (
            <Link to={`/${id}/site`} className="underline">
              bring the rig in
            </Link>
          )}
          .
        </p>
      )}
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-3 max-lg:block max-lg:space-y-3 max-lg:overflow-auto">
        <div ref={scroller} className="flex min-h-0 flex-col gap-3 overflow-auto">
          <ControllerStack controllers={data} lead={lead ?? waiting[0]?.id} scroller={scroller} />
          <ReaderList />
        </div>
        <EventList />
      </div>
    </div>
  );
}
