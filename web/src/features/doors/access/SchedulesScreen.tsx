/** Schedules and holidays: when something holds, by the clocks on the wall of the site, drawn as a week. */
import { scheduleInWords } from '@rawbits/core/access/rights';
import { Link, useNavigate, useParams } from 'react-router';
import { useAccessQuery } from '../../../platform/endpoints/access.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { counted } from '../../../platform/words/words.ts';
import { DoorTabs } from '../DoorTabs.tsx';
import { EditSchedule } from './EditSchedule.tsx';
import { NEW } from './GroupsScreen.tsx';
import { Holidays } from './Holidays.tsx';

const HOLIDAYS = 'holidays';

export function SchedulesScreen() {
  const { id, may } = useSite();
  const { schedule: chosen } = useParams();
  const navigate = useNavigate();
  const { data, error } = useAccessQuery(id);
  const schedule = data?.schedules.find((one) => one.id === chosen);
  const entry = (to: string, name: string, about: string) => (
    <li key={to} className="border-b border-faint">
      <Link
        to={`/${id}/doors/schedules/${to}`}
        aria-current={to === chosen ? 'page' : undefined}
        className={`block px-3 py-1.5 ${to === chosen ? 'bg-chosen font-bold' : 'hover:bg-base-200'}`}
      >
        {name}
        <span className="block font-normal text-ink-2">{about}</span>
      </Link>
    </li>
  );
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>Doors</h1>
        <DoorTabs />
        <span className="text-ink-2">clocks of {data?.zone}</span>
        {may('set up doors') && chosen !== NEW && (
          <button
            type="button"
            className="btn btn-primary ml-auto"
            onClick={() => void navigate(`/${id}/doors/schedules/${NEW}`)}
          >
            Add a schedule
          </button>
        )}
      </div>
      <FailureNote failure={error} />
      {data && (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,18rem)_minmax(0,1fr)] gap-3 max-lg:flex max-lg:flex-col max-lg:overflow-auto">
          <nav className="panel min-h-0 overflow-auto" aria-label="Schedules">
            <ul>
              {entry(HOLIDAYS, 'Holidays', counted(data.calendar.holidays.length, 'day'))}
              {data.schedules.map((one) => entry(one.id, one.name, scheduleInWords(one)))}
            </ul>
            {data.schedules.length === 0 && (
              <p className="p-3">
                No schedule yet. “Always” is there by itself; add one for what does not hold day and night.
              </p>
            )}
          </nav>
          <div className="flex min-h-0 flex-col gap-3 overflow-auto">
            {chosen === HOLIDAYS && <Holidays access={data} />}
            {(schedule || chosen === NEW) && <EditSchedule key={chosen} schedule={schedule} access={data} />}
            {chosen && chosen !== NEW && chosen !== HOLIDAYS && !schedule && (
              <p className="panel p-3">There is no such schedule any more.</p>
            )}
            {!chosen && <p className="panel p-3 text-ink-2">Choose a schedule at the left, to see its week.</p>}
          </div>
        </div>
      )}
    </div>
  );
}
