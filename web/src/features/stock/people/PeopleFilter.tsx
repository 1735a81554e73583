/** Which cardholders are listed: by name, kind, organisation, group, and whether they hold a card. */
import type { Cardholder } from '@rawbits/api';
import { GroupFilter } from '../GroupFilter.tsx';

export interface SoughtPeople {
  search: string;
  kind: string;
  organisation: string;
  group: string;
  isCardless: boolean;
}
export const ANYBODY: SoughtPeople = { search: '', kind: '', organisation: '', group: '', isCardless: false };

/** As the server is asked. */
export const soughtPeople = ({ search, kind, organisation, group, isCardless }: SoughtPeople) => ({
  search: search.trim() || undefined,
  kind: kind.trim() || undefined,
  organisation: organisation.trim() || undefined,
  group: group || undefined,
  without: isCardless ? ('cards' as const) : undefined,
});

/** The fields of a query that say something, as an address has them. */
export const given = (query: Record<string, string | undefined>): Record<string, string> =>
  Object.fromEntries(Object.entries(query).flatMap(([name, value]) => (value === undefined ? [] : [[name, value]])));

interface Props {
  sought: SoughtPeople;
  onSought: (next: SoughtPeople) => void;
  /** Those who are listed: their kinds and organisations are offered. */
  people: readonly Cardholder[];
}

export function PeopleFilter({ sought, onSought, people }: Props) {
  const text = (name: 'kind' | 'organisation', width: string) => {
    const offered = [...new Set(people.map((person) => person[name]).filter(Boolean))].sort();
    return (
      <>
        <input
          value={sought[name]}
          onChange={(event) => onSought({ ...sought, [name]: event.target.value })}
          placeholder={name}
          aria-label={`Only this ${name}`}
          list={`${name}s-of-people`}
          className={`input ${width}`}
          maxLength={120}
        />
        <datalist id={`${name}s-of-people`}>
          {offered.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
      </>
    );
  };
  return (
    <>
      <input
        data-search
        value={sought.search}
        onChange={(event) => onSought({ ...sought, search: event.target.value })}
        placeholder="name"
        aria-label="Search cardholders"
        className="input w-44"
        maxLength={120}
      />
      {text('kind', 'w-32')}
      {text('organisation', 'w-40')}
      <GroupFilter group={sought.group} onGroup={(group) => onSought({ ...sought, group })} />
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-sm"
          checked={sought.isCardless}
          onChange={(event) => onSought({ ...sought, isCardless: event.target.checked })}
        />
        who hold no card
      </label>
    </>
  );
}
