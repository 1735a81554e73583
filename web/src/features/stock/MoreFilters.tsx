/** Filters of the cards beside search and state: format, facility code, group, when they were last at a door. */
import { useFormatsQuery } from '../../platform/endpoints/formats.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { FormatOptions } from './FormatOptions.tsx';
import { GroupFilter } from './GroupFilter.tsx';
import type { Sought } from './sought.ts';

interface Props {
  sought: Sought;
  onSought: (next: Sought) => void;
}

export function MoreFilters({ sought, onSought }: Props) {
  const { id: site } = useSite();
  const { data: formats = [] } = useFormatsQuery(site);
  return (
    <fieldset className="flex flex-wrap items-center gap-x-3 gap-y-2" aria-label="More filters">
      <select
        value={sought.formatId}
        aria-label="Only this format"
        onChange={(event) => onSought({ ...sought, formatId: event.target.value })}
        className="select w-56"
      >
        <option value="">every format</option>
        <FormatOptions formats={formats} />
      </select>
      <input
        value={sought.facility}
        onChange={(event) => onSought({ ...sought, facility: event.target.value })}
        placeholder="code"
        aria-label="Only this facility code"
        inputMode="numeric"
        maxLength={40}
        className="input w-24 font-mono"
      />
      <GroupFilter group={sought.group} onGroup={(group) => onSought({ ...sought, group })} />
      <select
        value={sought.seen}
        aria-label="Last at a door"
        onChange={({ target: { value } }) =>
          onSought({ ...sought, seen: value as Sought['seen'], day: value === '' ? '' : sought.day })
        }
        className="select w-52"
      >
        <option value="">at a door whenever</option>
        <option value="since">was at a door since</option>
        <option value="not since">was at no door since</option>
      </select>
      {sought.seen !== '' && (
        <input
          type="date"
          value={sought.day}
          aria-label="Since this day"
          onChange={(event) => onSought({ ...sought, day: event.target.value })}
          className="input w-40 font-mono"
        />
      )}
    </fieldset>
  );
}
