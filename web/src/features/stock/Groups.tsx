/** The access groups of a cardholder, or of a card itself: put into one or taken out, shown before it is saved. */
import type { AccessChange } from '@rawbits/api';
import { Link } from 'react-router';
import { ChangeReview } from '../../parts/access/ChangeReview.tsx';
import { useAccessChange } from '../../parts/access/useAccessChange.ts';
import { useAccessQuery } from '../../platform/endpoints/access.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';

interface Props {
  /** What has the groups, as it stands before them. */
  label: string;
  /** Whose they are, for who cannot see where the button stands. */
  of: string;
  groups: readonly string[];
  changeFrom: (add: string[], remove: string[]) => AccessChange;
}

export function Groups({ label, of, groups: own, changeFrom }: Props) {
  const { id: site, may } = useSite();
  const { data } = useAccessQuery(site);
  const changing = useAccessChange();
  const groups = data?.groups ?? [];
  const others = groups.filter(({ id }) => !own.includes(id));
  if (data && groups.length === 0) return null;
  const move = (add: string[], remove: string[]) => void changing.propose(changeFrom(add, remove));
  return (
    <div className="flex flex-wrap items-center gap-2">
      <span className="text-ink-2">{label}:</span>
      {own.length === 0 && <span>none</span>}
      {groups
        .filter(({ id }) => own.includes(id))
        .map((group) => (
          <span key={group.id} className="tag">
            <Link to={`/${site}/doors/groups/${group.id}`}>{group.name}</Link>
            {may('keep cards') && (
              <button
                type="button"
                className="switch-link"
                aria-label={`Take ${of} out of ${group.name}`}
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
          aria-label={`Let ${of} into a group`}
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
