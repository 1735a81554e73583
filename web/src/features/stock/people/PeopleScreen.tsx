/** Cardholders: the people who hold cards, and one of them. */
import type { Cardholder } from '@rawbits/api';
import type { ColumnDef } from '@tanstack/react-table';
import { useCallback, useDeferredValue, useMemo } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { useKeptFilter } from '../../../platform/drafts/useKeptFilter.ts';
import { usePeopleInfiniteQuery, usePersonQuery } from '../../../platform/endpoints/people.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { DataTable } from '../../../platform/table/DataTable.tsx';
import { StockTabs } from '../StockTabs.tsx';
import { AsSheet } from './AsSheet.tsx';
import { NewPerson } from './NewPerson.tsx';
import { OnePerson } from './OnePerson.tsx';
import { ANYBODY, given, PeopleFilter, soughtPeople } from './PeopleFilter.tsx';
import { Rules } from './Rules.tsx';

const NEW = 'new';
const RULES = 'rules';

export function PeopleScreen() {
  const { id, may } = useSite();
  const { person: chosen } = useParams();
  const navigate = useNavigate();
  const [typed, setSought] = useKeptFilter(`${id} people`, ANYBODY);
  const sought = soughtPeople(useDeferredValue(typed));
  const { data, error, isFetching, hasNextPage, fetchNextPage } = usePeopleInfiniteQuery({ site: id, ...sought });
  const people = useMemo(() => data?.pages.flatMap((page) => page.cardholders) ?? [], [data]);
  const isPerson = chosen !== undefined && chosen !== NEW && chosen !== RULES;
  const { currentData: person, error: missing } = usePersonQuery({ site: id, id: chosen ?? '' }, { skip: !isPerson });
  const onEnd = useCallback(() => void fetchNextPage(), [fetchNextPage]);
  const isOpen = chosen === NEW || chosen === RULES || person !== undefined;
  const columns = useMemo(() => columnsFor(id, isOpen), [id, isOpen]);
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>Stock</h1>
        <StockTabs />
        <PeopleFilter sought={typed} onSought={setSought} people={people} />
        <span className="ml-auto flex flex-wrap gap-2">
          <Link to={`/${id}/stock/people/badges?${new URLSearchParams(given(sought))}`} className="btn btn-line">
            Badges
          </Link>
          <AsSheet />
          {may('keep cards') && (
            <Link to={`/${id}/stock/people/sheet`} className="btn btn-line">
              From a sheet
            </Link>
          )}
          <Link to={`/${id}/stock/people/${RULES}`} className="btn btn-line">
            Rules
          </Link>
          {may('keep cards') && (
            <button
              type="button"
              className="btn btn-primary"
              onClick={() => void navigate(`/${id}/stock/people/${NEW}`)}
            >
              Add a cardholder
            </button>
          )}
        </span>
      </div>
      <FailureNote failure={error ?? (isPerson ? missing : undefined)} />
      <div
        className={`grid min-h-0 flex-1 gap-3 ${isOpen ? 'grid-cols-[minmax(0,1fr)_minmax(0,36rem)] max-lg:flex max-lg:flex-col max-lg:overflow-auto max-lg:*:first:min-h-60 max-lg:*:last:order-first max-lg:*:last:shrink-0' : ''}`}
      >
        <DataTable
          columns={columns}
          rows={people}
          total={people.length}
          label="Cardholders"
          keyOf={(row) => row.id}
          chosen={chosen}
          empty={isFetching ? 'Loading …' : typed === ANYBODY ? 'No cardholder yet.' : 'Nobody is like that.'}
          onEnd={hasNextPage && !isFetching ? onEnd : undefined}
        />
        {chosen === NEW && <NewPerson />}
        {chosen === RULES && <Rules />}
        {person && <OnePerson key={person.id} person={person} />}
      </div>
    </div>
  );
}

function columnsFor(site: string, isNarrow: boolean): ColumnDef<Cardholder>[] {
  const wide: ColumnDef<Cardholder>[] = [
    { header: 'Department', accessorKey: 'department' },
    { header: 'Organisation', accessorKey: 'organisation' },
  ];
  return [
    {
      header: 'Name',
      cell: ({ row: { original } }) => (
        <Link to={`/${site}/stock/people/${original.id}`} className="underline">
          {original.name}
        </Link>
      ),
    },
    ...(isNarrow ? wide.slice(0, 1) : wide),
    { header: 'Kind', accessorKey: 'kind' },
    { header: 'Cards', accessorKey: 'cards' },
  ];
}
