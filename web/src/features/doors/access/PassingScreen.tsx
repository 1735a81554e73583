/** Who may pass: door by door, by which groups and when; and what is to stay true of it. */
import { useParams } from 'react-router';
import { useAccessQuery } from '../../../platform/endpoints/access.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { counted } from '../../../platform/words/words.ts';
import { DoorTabs } from '../DoorTabs.tsx';
import { Assertions } from './Assertions.tsx';
import { DoorRule } from './DoorRule.tsx';
import { DoorWeek } from './DoorWeek.tsx';
import { SideList } from './SideList.tsx';

const ASSERTIONS = 'assertions';

function howTheyStand(all: number, broken: number): string {
  if (all === 0) return 'what is to stay true, held to at every change';
  if (broken > 0) return `${broken} of ${counted(all, 'does not hold', 'do not hold')}`;
  return all === 1 ? 'one, and it holds' : `all ${all} hold`;
}

export function PassingScreen() {
  const { id } = useSite();
  const { door: chosen } = useParams();
  const { data, error } = useAccessQuery(id);
  const door = data?.doors.find((one) => one.id === chosen);
  const broken = data?.assertions.filter((one) => one.broken.length > 0).length ?? 0;
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>Doors</h1>
        <DoorTabs />
      </div>
      <FailureNote failure={error} />
      {data && (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,18rem)_minmax(0,1fr)] gap-3 max-lg:flex max-lg:flex-col max-lg:overflow-auto">
          <SideList
            label="Doors"
            at={`/${id}/doors/passing`}
            chosen={chosen}
            entries={[
              {
                to: ASSERTIONS,
                name: 'Assertions',
                about: howTheyStand(data.assertions.length, broken),
                isWrong: broken > 0,
              },
              ...data.doors.map((one) => ({
                to: one.id,
                name: one.name,
                about: one.byGroups ? 'by access groups' : 'any active card, at any time',
              })),
            ]}
          >
            {data.doors.length === 0 && (
              <p className="p-3">This site has no doors yet: add a reader at a controller first.</p>
            )}
          </SideList>
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
