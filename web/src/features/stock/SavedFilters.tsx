/** Filters of the cards that were given a name: taken up, kept, taken away. */
import type { CardFilter, SavedFilter } from '@rawbits/api';
import { useState } from 'react';
import {
  useRemoveFilterMutation,
  useSavedFiltersQuery,
  useSaveFilterMutation,
} from '../../platform/endpoints/filters.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { narrows } from './sought.ts';

interface Props {
  /** As the cards are narrowed now. */
  filter: CardFilter;
  onTake: (saved: SavedFilter) => void;
}

const same = (a: CardFilter, b: CardFilter): boolean => {
  const text = (filter: CardFilter) =>
    JSON.stringify(
      Object.entries(filter)
        .filter(([, v]) => v !== undefined)
        .sort(),
    );
  return text(a) === text(b);
};

export function SavedFilters({ filter, onTake }: Props) {
  const { id: site, may } = useSite();
  const { data: saved = [] } = useSavedFiltersQuery(site);
  const [save, saving] = useSaveFilterMutation();
  const [remove, removing] = useRemoveFilterMutation();
  const [name, setName] = useState<string>();
  const current = saved.find((one) => same(one.filter, filter));
  const keep = async () => {
    if (name?.trim() && (await save({ site, name: name.trim(), filter })).data) setName(undefined);
  };
  return (
    <span className="flex flex-wrap items-center gap-2">
      {saved.length > 0 && (
        <select
          value={current?.id ?? ''}
          aria-label="Saved filters"
          onChange={({ target: { value } }) => {
            const one = saved.find(({ id }) => id === value);
            if (one) onTake(one);
          }}
          className="select w-48"
        >
          <option value="">saved filters</option>
          {saved.map(({ id, name: called }) => (
            <option key={id} value={id}>
              {called}
            </option>
          ))}
        </select>
      )}
      {may('keep cards') && current && (
        <button
          type="button"
          className="switch-link underline"
          disabled={removing.isLoading}
          title={`saved by ${current.savedBy}`}
          onClick={() => void remove({ site, id: current.id })}
        >
          forget “{current.name}”
        </button>
      )}
      {may('keep cards') && !current && narrows(filter) && name === undefined && (
        <button type="button" className="switch-link underline" onClick={() => setName('')}>
          save this filter
        </button>
      )}
      {name !== undefined && !current && (
        <form
          className="flex items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            void keep();
          }}
        >
          <input
            // biome-ignore lint/a11y/noAutofocus: the button that was pressed asks for the name
            autoFocus
            value={name}
            onChange={(event) => setName(event.target.value)}
            onKeyDown={(event) => event.key === 'Escape' && setName(undefined)}
            placeholder="name of the filter"
            aria-label="Name of the filter"
            maxLength={120}
            className="input w-44"
          />
          <button type="submit" className="btn btn-line" disabled={name.trim() === '' || saving.isLoading}>
            Save
          </button>
        </form>
      )}
      <FailureNote failure={saving.error ?? removing.error} />
    </span>
  );
}
