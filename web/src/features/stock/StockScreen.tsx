import { useCallback, useDeferredValue, useEffect, useMemo } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { useKeptFilter } from '../../platform/drafts/useKeptFilter.ts';
import { useCardQuery, useCardsInfiniteQuery } from '../../platform/endpoints/cards.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { CardTable } from './CardTable.tsx';
import { IssueCard } from './IssueCard.tsx';
import { OneCard } from './OneCard.tsx';
import { StockHead } from './StockHead.tsx';
import { EVERYTHING, filterOf, narrows, type Sought } from './sought.ts';

export function StockScreen() {
  const { id, zone, may } = useSite();
  const { card: cardId } = useParams();
  const [query] = useSearchParams();
  const [typed, setSought] = useKeptFilter<Sought>(`${id} cards`, EVERYTHING);
  const asked = query.get('search');
  const box = query.get('box') ?? undefined;
  useEffect(() => {
    if (asked !== null) setSought({ ...EVERYTHING, search: asked });
  }, [asked, setSought]);
  const filter = filterOf(useDeferredValue(typed), zone, box);
  const { data, error, isFetching, hasNextPage, fetchNextPage } = useCardsInfiniteQuery({
    ...{ site: id, order: typed.order },
    ...filter,
  });
  const cards = useMemo(() => data?.pages.flatMap((page) => page.cards) ?? [], [data]);
  const foundBy = useMemo(
    () =>
      new Map(data?.pages.flatMap(({ cards: some, foundBy: by }) => by.map((how, i) => [some[i]!.id, how] as const))),
    [data],
  );
  const onEnd = useCallback(() => void fetchNextPage(), [fetchNextPage]);
  const issuing = query.get('issue');
  const { data: chosen, error: missing } = useCardQuery({ site: id, id: cardId ?? '' }, { skip: !cardId });
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 overflow-auto p-4 px-5">
      <StockHead
        sought={typed}
        onSought={setSought}
        count={data?.pages[0]}
        filter={filter}
        mayIssue={may('keep cards') && !issuing}
      />
      <FailureNote failure={error ?? (cardId ? missing : undefined)} />
      <div
        className={`grid min-h-60 flex-1 gap-3 ${issuing || (cardId && chosen) ? 'grid-cols-[minmax(0,1fr)_minmax(0,25rem)] max-lg:flex max-lg:flex-col max-lg:overflow-auto max-lg:*:first:min-h-80 max-lg:*:last:order-first max-lg:*:last:shrink-0' : ''}`}
      >
        <CardTable
          cards={cards}
          foundBy={foundBy}
          total={data?.pages[0]?.total ?? 0}
          chosen={cardId}
          isNarrow={issuing !== null || cardId !== undefined}
          onEnd={hasNextPage && !isFetching ? onEnd : undefined}
          empty={
            isFetching
              ? 'Loading …'
              : narrows(filter)
                ? 'No card has that.'
                : 'No card is on file yet. Hold one to a reader and issue it from the latest read.'
          }
        />
        {issuing ? (
          <IssueCard issue={issuing} formatId={query.get('format')} />
        ) : (
          cardId && chosen && <OneCard key={chosen.id} card={chosen} />
        )}
      </div>
    </div>
  );
}
