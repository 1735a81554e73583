/** Access groups: which doors a group opens by which schedules, and who is in it. */
import type { Access } from '@rawbits/api';
import { useNavigate, useParams } from 'react-router';
import { useAccessQuery } from '../../../platform/endpoints/access.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { counted } from '../../../platform/words/words.ts';
import { DoorTabs } from '../DoorTabs.tsx';
import { EditGroup } from './EditGroup.tsx';
import { Members } from './Members.tsx';
import { SideList } from './SideList.tsx';

export const NEW = 'new';

const doorsIn = (rights: Access['groups'][number]['rights']): number =>
  new Set(rights.flatMap(({ doors }) => doors.map(({ door }) => door))).size;

export function GroupsScreen() {
  const { id, may } = useSite();
  const { group: chosen } = useParams();
  const navigate = useNavigate();
  const { data, error } = useAccessQuery(id);
  const group = data?.groups.find((one) => one.id === chosen);
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>Doors</h1>
        <DoorTabs />
        {may('set up doors') && chosen !== NEW && (
          <button
            type="button"
            className="btn btn-primary ml-auto"
            onClick={() => void navigate(`/${id}/doors/groups/${NEW}`)}
          >
            Add a group
          </button>
        )}
      </div>
      <FailureNote failure={error} />
      {data && (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,18rem)_minmax(0,1fr)] gap-3 max-lg:flex max-lg:flex-col max-lg:overflow-auto">
          <SideList
            label="Access groups"
            at={`/${id}/doors/groups`}
            chosen={chosen}
            entries={data.groups.map(({ id: to, name, members, rights }) => ({
              to,
              name,
              about: `${counted(members, 'person', 'people')}, ${counted(doorsIn(rights), 'door')}`,
            }))}
          >
            {data.groups.length === 0 && (
              <p className="p-3">
                No access group yet. A group lets its members pass some doors while a schedule holds; a door asks for
                groups once it is told to, under Who may pass.
              </p>
            )}
          </SideList>
          <div className="flex min-h-0 flex-col gap-3 overflow-auto">
            {(group || chosen === NEW) && <EditGroup key={chosen} group={group} access={data} />}
            {group && <Members key={`members ${group.id}`} group={group} groups={data.groups} />}
            {chosen && chosen !== NEW && !group && <p className="panel p-3">There is no such group any more.</p>}
            {!chosen && data.groups.length > 0 && (
              <p className="panel p-3 text-ink-2">Choose a group at the left, to see its doors and its people.</p>
            )}
          </div>
        </div>
      )}
    </div>
  );
}
