/** Stock: the cards of the site, issuing one, changing one. */
import { REPORT_NAMES, REPORTS, type Report } from '@rawbits/api';
import { CARD_STATES, type CardState } from '@rawbits/core/access';
import { useCallback, useDeferredValue, useEffect, useMemo, useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { useBoxQuery } from '../../platform/endpoints/boxes.ts';
import { useCardQuery, useCardsInfiniteQuery } from '../../platform/endpoints/cards.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { counted } from '../../platform/words/words.ts';
import { CardTable } from './CardTable.tsx';
import { IssueCard } from './IssueCard.tsx';
import { OneCard } from './OneCard.tsx';
import { StockTabs } from './StockTabs.tsx';

export function StockScreen() {
  const { id, may } = useSite();
  const { card: cardId } = useParams();
  const [query] = useSearchParams();
  const [{ search, state, order, report }, setSought] = useState<Sought>(EVERYTHING);
  const asked = query.get('search');
  const box = query.get('box') ?? undefined;
  useEffect(() => {
    if (asked !== null) setSought((before) => ({ ...before, search: asked }));
  }, [asked]);
  const sought = useDeferredValue(search.trim());
  const { data, error, isFetching, hasNextPage, fetchNextPage } = useCardsInfiniteQuery({
    site: id,
    search: sought || undefined,
    state: state || undefined,
    report: report || undefined,
    box,
    order,
  });
  const cards = useMemo(() => data?.pages.flatMap((page) => page.cards) ?? [], [data]);
  const { total = 0, more = false } = data?.pages[0] ?? {};
  const onEnd = useCallback(() => void fetchNextPage(), [fetchNextPage]);
  const issuing = query.get('issue');
  const { data: chosen, error: missing } = useCardQuery({ site: id, id: cardId ?? '' }, { skip: !cardId });
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <Head
        sought={{ search, state, order, report }}
        onSought={setSought}
        count={{ total, more }}
        box={box}
        mayIssue={may('keep cards') && !issuing}
      />
      <FailureNote failure={error ?? (cardId ? missing : undefined)} />
      <div
        className={`grid min-h-0 flex-1 gap-3 ${issuing || (cardId && chosen) ? 'grid-cols-[minmax(0,1fr)_minmax(0,25rem)] max-lg:flex max-lg:flex-col max-lg:overflow-auto max-lg:*:first:min-h-80 max-lg:*:last:order-first max-lg:*:last:shrink-0' : ''}`}
      >
        <CardTable
          cards={cards}
          total={total}
          chosen={cardId}
          isNarrow={issuing !== null || cardId !== undefined}
          onEnd={hasNextPage && !isFetching ? onEnd : undefined}
          empty={
            isFetching
              ? 'Loading …'
              : sought || state || box || report
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

/** The list shows one box, and the way out of it. */
function OfBox({ box }: { box: string }) {
  const { id } = useSite();
  const { data } = useBoxQuery({ site: id, id: box });
  return (
    <span className="flex items-center gap-2">
      of the box{' '}
      <Link to={`/${id}/stock/boxes/${box}`} className="underline">
        {data?.name ?? '…'}
      </Link>
      <Link to={`/${id}/stock`} className="switch-link">
        all cards
      </Link>
    </span>
  );
}

interface Sought {
  search: string;
  state: CardState | '';
  order: 'newest' | 'number';
  report: Report | '';
}
/** How a report is told from a state among the choices. */
const REPORT = 'report: ';
const EVERYTHING: Sought = { search: '', state: '', order: 'newest', report: '' };

interface HeadProps {
  sought: Sought;
  onSought: (next: Sought) => void;
  count: { total: number; more: boolean };
  /** Only the cards of this box are listed. */
  box: string | undefined;
  mayIssue: boolean;
}

function Head({ sought, onSought, count: { total, more }, box, mayIssue }: HeadProps) {
  const { id } = useSite();
  const navigate = useNavigate();
  const { state, report } = sought;
  const found = sought.search.trim() !== '';
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
      <h1>Stock</h1>
      <StockTabs />
      <span className="text-ink-2">
        {more ? `more than ${total.toLocaleString('en')} cards` : counted(total, 'card')}
        {found || state || box || report ? ' found' : ' on file'}
      </span>
      {box && <OfBox box={box} />}
      <input
        data-search
        value={sought.search}
        onChange={(event) => onSought({ ...sought, search: event.target.value })}
        placeholder="number, range, print, bits, holder"
        aria-label="Search cards"
        className="input w-64"
      />
      <select
        value={report ? `${REPORT}${report}` : state}
        onChange={({ target: { value } }) =>
          onSought(
            value.startsWith(REPORT)
              ? { ...sought, state: '', report: value.slice(REPORT.length) as Report }
              : { ...sought, state: value as Sought['state'], report: '' },
          )
        }
        aria-label="State"
        title={report ? REPORTS[report] : undefined}
        className="select w-36"
      >
        <option value="">every state</option>
        {CARD_STATES.map((s) => (
          <option key={s}>{s}</option>
        ))}
        <optgroup label="Reports">
          {REPORT_NAMES.map((name) => (
            <option key={name} value={`${REPORT}${name}`} title={REPORTS[name]}>
              {name}
            </option>
          ))}
        </optgroup>
      </select>
      <select
        value={sought.order}
        onChange={(event) => onSought({ ...sought, order: event.target.value as Sought['order'] })}
        disabled={found}
        aria-label="Order"
        title={found ? 'What is found stands by number, print or holder' : undefined}
        className="select w-36"
      >
        <option value="newest">newest first</option>
        <option value="number">by number</option>
      </select>
      {mayIssue && (
        <span className="ml-auto flex gap-2">
          <button type="button" className="btn btn-primary" onClick={() => void navigate(`/${id}/stock?issue=latest`)}>
            Issue from the latest read
          </button>
          <button type="button" className="btn btn-line" onClick={() => void navigate(`/${id}/stock?issue=new`)}>
            Issue by hand
          </button>
        </span>
      )}
    </div>
  );
}
