/** One of the access groups of the site, or every one; not there where the site has none. */
import { useAccessQuery } from '../../platform/endpoints/access.ts';
import { useSite } from '../../platform/site/useSite.ts';

interface Props {
  /** Its id; empty for every one. */
  group: string;
  onGroup: (id: string) => void;
}

export function GroupFilter({ group, onGroup }: Props) {
  const { id: site } = useSite();
  const { data: access } = useAccessQuery(site);
  if (!access || access.groups.length === 0) return null;
  return (
    <select
      value={group}
      aria-label="Only this access group"
      onChange={(event) => onGroup(event.target.value)}
      className="select w-40"
    >
      <option value="">every group</option>
      {access.groups.map(({ id, name }) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </select>
  );
}
