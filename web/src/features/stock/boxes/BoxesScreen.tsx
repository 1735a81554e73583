/** Boxes: the numbers of a code on a line, the boxes that were entered, entering one, and one of them. */
import { useMemo, useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { useBoxesInfiniteQuery, useBoxQuery } from '../../../platform/endpoints/boxes.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { StockTabs } from '../StockTabs.tsx';
import { BoxTable } from './BoxTable.tsx';
import { EnterBox } from './EnterBox.tsx';
import { type Line, NumberMap } from './NumberMap.tsx';
import { OneBox } from './OneBox.tsx';
import { ToOrder } from './ToOrder.tsx';

export function BoxesScreen() {
  const { id, may } = useSite();
  const { box: boxId } = useParams();
  const [query, setQuery] = useSearchParams();
  const navigate = useNavigate();
  const { data, error, isFetching, hasNextPage, fetchNextPage } = useBoxesInfiniteQuery(id);
  const boxes = useMemo(() => data?.pages.flatMap((page) => page.boxes) ?? [], [data]);
  const { currentData, error: missing } = useBoxQuery({ site: id, id: boxId ?? '' }, { skip: !boxId });
  const chosen = boxId ? currentData : undefined;
  const [line, setLine] = useState<Line>();
  const entering = query.has('enter');
  const ordering = query.has('order') && !entering && !chosen;
  const onRun = may('keep cards')
    ? ({ formatId, facility }: Line, { from, to }: { from: string; to: string }) =>
        setQuery({ enter: '', format: formatId, ...(facility !== null && { facility }), from, to })
    : undefined;
  const open = (box: string) => void navigate(`/${id}/stock/boxes/${box}`);
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>Stock</h1>
        <StockTabs />
        <span className="ml-auto flex flex-wrap gap-2">
          {!ordering && (
            <Link to={`/${id}/stock/boxes?order=`} className="btn btn-line">
              What to order
            </Link>
          )}
          {may('keep cards') && !entering && (
            <Link to={`/${id}/stock/boxes?enter=`} className="btn btn-primary">
              Enter a box
            </Link>
          )}
        </span>
      </div>
      <NumberMap
        line={chosen && !entering ? { formatId: chosen.formatId, facility: chosen.facility } : line}
        onLine={setLine}
        boxes={boxes}
        box={chosen}
        onBox={open}
        onFree={onRun}
      />
      <FailureNote failure={error ?? (boxId ? missing : undefined)} />
      <div
        className={`grid min-h-0 flex-1 gap-3 max-lg:flex max-lg:flex-col max-lg:overflow-auto max-lg:*:last:order-first max-lg:*:last:shrink-0 ${
          entering || chosen || ordering ? 'grid-cols-[minmax(0,1fr)_minmax(0,29rem)]' : ''
        }`}
      >
        <BoxTable
          boxes={boxes}
          chosen={boxId}
          isNarrow={entering || ordering || chosen !== undefined}
          isLoading={isFetching}
          onEnd={hasNextPage && !isFetching ? () => void fetchNextPage() : undefined}
        />
        {entering ? (
          <EnterBox key={query.toString()} given={query} onLine={setLine} />
        ) : (
          chosen && <OneBox key={chosen.id} box={chosen} />
        )}
        {ordering && <ToOrder onRun={onRun} />}
      </div>
    </div>
  );
}
