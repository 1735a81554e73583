/** Schedules and holidays: when something holds, by the clocks on the wall of the site, drawn as a week. */
import { scheduleInWords } from '@rawbits/core/access/rights';
import { useNavigate, useParams } from 'react-router';
import { useAccessQuery } from '../../../platform/endpoints/access.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { counted } from '../../../platform/words/words.ts';
import { DoorTabs } from '../DoorTabs.tsx';
import { EditSchedule } from './EditSchedule.tsx';
import { NEW } from './GroupsScreen.tsx';
import { Holidays } from './Holidays.tsx';
import { SideList } from './SideList.tsx';

const HOLIDAYS = 'holidays';

export function SchedulesScreen() {
  const { id, may } = useSite();
  const { schedule: chosen } = useParams();
  const navigate = useNavigate();
  const { data, error } = useAccessQuery(id);
  const schedule = data?.schedules.find((one) => one.id === chosen);
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
          <SideList
            label="Schedules"
            at={`/${id}/doors/schedules`}
            chosen={chosen}
            entries={[
              { to: HOLIDAYS, name: 'Holidays', about: counted(data.calendar.holidays.length, 'day') },
              ...data.schedules.map((one) => ({ to: one.id, name: one.name, about: scheduleInWords(one) })),
            ]}
          >
            {data.schedules.length === 0 && (
              <p className="p-3">
                No schedule yet. “Always” is there by itself; add one for what does not hold day and night.
              </p>
            )}
          </SideList>
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
