/** The access groups that somebody is in: let into one or taken out, shown before it is saved. */
import type { OneCardholder } from '@rawbits/api';
import { Link } from 'react-router';
import { ChangeReview } from '../../../parts/access/ChangeReview.tsx';
import { useAccessChange } from '../../../parts/access/useAccessChange.ts';
import { useAccessQuery } from '../../../platform/endpoints/access.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';

export function PersonGroups({ person }: { person: OneCardholder }) {
  const { id: site, may } = useSite();
  const { data } = useAccessQuery(site);
  const changing = useAccessChange();
  const groups = data?.groups ?? [];
  const own = groups.filter(({ id }) => person.groups.includes(id));
  const others = groups.filter(({ id }) => !person.groups.includes(id));
  const move = (add: string[], remove: string[]) =>
    void changing.propose({ kind: 'members', add, remove, holders: [person.id] });
  return (
    <div className="flex flex-wrap items-center gap-2">
      <span className="text-ink-2">Access groups:</span>
      {own.length === 0 && <span>none</span>}
      {own.map((group) => (
        <span key={group.id} className="tag">
          <Link to={`/${site}/doors/groups/${group.id}`}>{group.name}</Link>
          {may('keep cards') && (
            <button
              type="button"
              className="switch-link"
              aria-label={`Take ${person.name} out of ${group.name}`}
              disabled={changing.busy}
              onClick={() => move([], [group.id])}
            >
              ×
            </button>
          )}
        </span>
      ))}
      {may('keep cards') && others.length > 0 && (
        <select
          aria-label="Let into a group"
          className="select w-48"
          value=""
          disabled={changing.busy}
          onChange={({ target: { value } }) => value && move([value], [])}
        >
          <option value="">let into a group …</option>
          {others.map((group) => (
            <option key={group.id} value={group.id}>
              {group.name}
            </option>
          ))}
        </select>
      )}
      <FailureNote failure={changing.proposed ? undefined : changing.error} />
      <ChangeReview changing={changing} />
    </div>
  );
}
