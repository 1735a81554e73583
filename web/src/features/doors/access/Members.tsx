/** Who is in an access group: found by name and let in, or taken out; what either does is shown first. */
import type { Access } from '@rawbits/api';
import { useDeferredValue, useState } from 'react';
import { Link } from 'react-router';
import { ChangeReview } from '../../../parts/access/ChangeReview.tsx';
import { useAccessChange } from '../../../parts/access/useAccessChange.ts';
import { useMembersQuery } from '../../../platform/endpoints/access.ts';
import { useCardholdersQuery } from '../../../platform/endpoints/cards.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';

type Group = Access['groups'][number];

export function Members({ group, groups }: { group: Group; groups: readonly Group[] }) {
  const { id: site, may } = useSite();
  const [pages, setPages] = useState<string[]>([]);
  const after = pages.at(-1);
  const { data, error } = useMembersQuery({ site, id: group.id, ...(after !== undefined && { after }) });
  const taking = useAccessChange();
  const name = (id: string) => groups.find((one) => one.id === id)?.name;
  return (
    <section className="panel flex shrink-0 flex-col gap-3 p-4" aria-label="People of the group">
      <h2>
        People in {group.name}: {group.members.toLocaleString('en')}
      </h2>
      {may('keep cards') && <LetIn group={group} />}
      <FailureNote failure={error ?? (taking.proposed ? undefined : taking.error)} />
      {data && data.members.length > 0 && (
        <table className="grid-table" aria-label="People of the group">
          <thead>
            <tr>
              <th>Name</th>
              <th>Department</th>
              <th>Other groups</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {data.members.map((member) => (
              <tr key={member.id}>
                <td>
                  <Link to={`/${site}/stock/people/${member.id}`} className="underline">
                    {member.name}
                  </Link>
                </td>
                <td>{member.department}</td>
                <td className="text-ink-2">
                  {member.groups
                    .filter((other) => other !== group.id)
                    .flatMap((other) => name(other) ?? [])
                    .join(', ')}
                </td>
                <td className="text-right">
                  {may('keep cards') && (
                    <button
                      type="button"
                      className="switch-link underline"
                      disabled={taking.busy}
                      onClick={() =>
                        void taking.propose({ kind: 'members', add: [], remove: [group.id], holders: [member.id] })
                      }
                    >
                      take out<span className="sr-only"> {member.name}</span>
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {(pages.length > 0 || data?.next) && (
        <div className="flex gap-2">
          <button
            type="button"
            className="btn btn-line btn-small"
            disabled={pages.length === 0}
            onClick={() => setPages(pages.slice(0, -1))}
          >
            Before
          </button>
          <button
            type="button"
            className="btn btn-line btn-small"
            disabled={!data?.next}
            onClick={() => data?.next && setPages([...pages, data.next])}
          >
            After
          </button>
        </div>
      )}
      <ChangeReview changing={taking} />
    </section>
  );
}

const LISTED = 8;

/** People found by name, chosen, and let in together. */
function LetIn({ group }: { group: Group }) {
  const { id: site } = useSite();
  const [search, setSearch] = useState('');
  const [chosen, setChosen] = useState<{ id: string; name: string }[]>([]);
  const sought = useDeferredValue(search.trim());
  const { currentData } = useCardholdersQuery({ site, search: sought, limit: LISTED }, { skip: sought === '' });
  const changing = useAccessChange(() => setChosen([]));
  const found = (currentData?.cardholders ?? []).filter(({ id }) => !chosen.some((one) => one.id === id));
  const choose = (person: { id: string; name: string }) => {
    setChosen([...chosen, { id: person.id, name: person.name }]);
    setSearch('');
  };
  return (
    <div className="flex flex-col gap-2">
      <div className="flex flex-wrap items-end gap-3">
        <Field
          label="Let people in"
          hint={sought && currentData && found.length === 0 ? 'Nobody else is called that.' : undefined}
        >
          {(props) => (
            <input
              {...props}
              value={search}
              onChange={(event) => setSearch(event.target.value)}
              onKeyDown={(event) => {
                if (event.key !== 'Enter' || !found[0]) return;
                event.preventDefault();
                choose(found[0]);
              }}
              placeholder="the beginning of a name"
              className="input w-72"
              maxLength={120}
            />
          )}
        </Field>
        {chosen.length > 0 && (
          <button
            type="button"
            className="btn btn-primary"
            disabled={changing.busy}
            onClick={() =>
              void changing.propose({
                kind: 'members',
                add: [group.id],
                remove: [],
                holders: chosen.map(({ id }) => id),
              })
            }
          >
            Let {chosen.length === 1 ? chosen[0]!.name : `${chosen.length} people`} in
          </button>
        )}
      </div>
      {sought !== '' && found.length > 0 && (
        <ul className="flex flex-wrap gap-2" aria-label="Found">
          {found.map((person) => (
            <li key={person.id}>
              <button type="button" className="btn btn-line btn-small" onClick={() => choose(person)}>
                {person.name}
                {person.department && `, ${person.department}`}
              </button>
            </li>
          ))}
        </ul>
      )}
      {chosen.length > 0 && (
        <ul className="flex flex-wrap gap-2" aria-label="Chosen">
          {chosen.map((person) => (
            <li key={person.id} className="tag">
              {person.name}{' '}
              <button
                type="button"
                className="switch-link"
                aria-label={`Not ${person.name}`}
                onClick={() => setChosen(chosen.filter(({ id }) => id !== person.id))}
              >
                ×
              </button>
            </li>
          ))}
        </ul>
      )}
      <FailureNote failure={changing.proposed ? undefined : changing.error} />
      <ChangeReview changing={changing} />
    </div>
  );
}
