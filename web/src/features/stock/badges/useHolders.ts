/** Who is to have a badge, as the address says: by their identifiers, or by a filter of the cardholders. */
import { MOST_BADGES } from '@rawbits/api';
import { useEffect, useMemo } from 'react';
import { useSearchParams } from 'react-router';
import { usePeopleInfiniteQuery } from '../../../platform/endpoints/people.ts';
import { useSite } from '../../../platform/site/useSite.ts';

export function useHolders() {
  const { id: site } = useSite();
  const [query] = useSearchParams();
  const listed = query.get('holders');
  const of = (field: string) => query.get(field) ?? undefined;
  const { data, error, hasNextPage, isFetching, fetchNextPage } = usePeopleInfiniteQuery(
    {
      ...{ site, search: of('search'), kind: of('kind'), organisation: of('organisation'), group: of('group') },
      without: of('without') as 'cards' | undefined,
    },
    { skip: listed !== null },
  );
  const found = useMemo(
    () =>
      listed?.split(',').filter(Boolean) ?? data?.pages.flatMap((page) => page.cardholders.map(({ id }) => id)) ?? [],
    [listed, data],
  );
  useEffect(() => {
    if (hasNextPage && !isFetching && found.length < MOST_BADGES) void fetchNextPage();
  }, [hasNextPage, isFetching, found, fetchNextPage]);
  const holders = useMemo(() => found.slice(0, MOST_BADGES), [found]);
  return { holders, isMore: found.length > MOST_BADGES || hasNextPage, isFetching, error };
}
