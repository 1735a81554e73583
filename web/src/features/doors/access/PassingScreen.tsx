/** Who may pass: door by door, by which groups and when; and what is to stay true of it. */
import { Link, useParams } from 'react-router';
import { useAccessQuery } from '../../../platform/endpoints/access.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { counted } from '../../../platform/words/words.ts';
import { DoorTabs } from '../DoorTabs.tsx';
import { Assertions } from './Assertions.tsx';
import { DoorRule } from './DoorRule.tsx';
import { DoorWeek } from './DoorWeek.tsx';

const ASSERTIONS = 'assertions';

export function PassingScreen() {
  const { id } = useSite();
  const { door: chosen } = useParams();
  const { data, error } = useAccessQuery(id);
  const door = data?.doors.find((one) => one.id === chosen);
  const broken = data?.assertions.filter((one) => one.broken.length > 0).length ?? 0;
  const entry = (to: string, name: string, about: string, isWrong = false) => (
    <li key={to} className="border-b border-faint">
      <Link
        to={`/${id}/doors/passing/${to}`}
        aria-current={to === chosen ? 'page' : undefined}
        className={`block px-3 py-1.5 ${to === chosen ? 'bg-chosen font-bold' : 'hover:bg-base-200'}`}
      >
        {name}
        <span className={`block font-normal ${isWrong ? 'font-bold text-signal' : 'text-ink-2'}`}>{about}</span>
      </Link>
    </li>
  );
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>Doors</h1>
        <DoorTabs />
      </div>
      <FailureNote failure={error} />
      {data && (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,18rem)_minmax(0,1fr)] gap-3 max-lg:flex max-lg:flex-col max-lg:overflow-auto">
          <nav className="panel min-h-0 overflow-auto" aria-label="Doors">
            <ul>
              {entry(
                ASSERTIONS,
                'Assertions',
                data.assertions.length === 0
                  ? 'what is to stay true, held to at every change'
                  : broken > 0
                    ? `${broken} of ${counted(data.assertions.length, 'does not hold', 'do not hold')}`
                    : data.assertions.length === 1
                      ? 'one, and it holds'
                      : `all ${data.assertions.length} hold`,
                broken > 0,
              )}
              {data.doors.map((one) =>
                entry(one.id, one.name, one.byGroups ? 'by access groups' : 'any active card, at any time'),
              )}
            </ul>
            {data.doors.length === 0 && (
              <p className="p-3">This site has no doors yet: add a reader at a controller first.</p>
            )}
          </nav>
          <div className="flex min-h-0 flex-col gap-3 overflow-auto">
            {chosen === ASSERTIONS && <Assertions access={data} />}
            {door && <DoorWeek key={`week ${door.id}`} door={door} zone={data.zone} />}
            {door && <DoorRule key={`rule ${door.id}`} door={door} access={data} />}
            {chosen && chosen !== ASSERTIONS && !door && <p className="panel p-3">There is no such door any more.</p>}
            {!chosen && (
              <p className="panel p-3 text-ink-2">Choose a door at the left, to see who may pass it and when.</p>
            )}
          </div>
        </div>
      )}
    </div>
  );
}
