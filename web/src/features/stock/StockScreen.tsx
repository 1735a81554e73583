/** Stock: the cards of the site, issuing one, changing one. */
import { CARD_STATES, type CardState } from '@rawbits/core/access';
import { useDeferredValue, useState } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import { useCardsQuery } from '../../platform/endpoints/cards.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { counted } from '../../platform/words/words.ts';
import { CardTable } from './CardTable.tsx';
import { IssueCard } from './IssueCard.tsx';
import { OneCard } from './OneCard.tsx';

export function StockScreen() {
  const { id, may } = useSite();
  const { card: cardId } = useParams();
  const [query] = useSearchParams();
  const navigate = useNavigate();
  const [search, setSearch] = useState('');
  const [state, setState] = useState<CardState | ''>('');
  const sought = useDeferredValue(search.trim());
  const {
    data = [],
    error,
    isFetching,
  } = useCardsQuery({ site: id, search: sought || undefined, state: state || undefined });
  const issuing = query.get('issue');
  const chosen = data.find((card) => card.id === cardId);
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>Stock</h1>
        <span className="text-ink-2">
          {counted(data.length, 'card')}
          {sought || state ? ' found' : ' on file'}
        </span>
        <input
          data-search
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          placeholder="number, print, holder"
          aria-label="Search cards"
          className="input w-52"
        />
        <select
          value={state}
          onChange={(event) => setState(event.target.value as CardState | '')}
          aria-label="State"
          className="select w-36"
        >
          <option value="">every state</option>
          {CARD_STATES.map((s) => (
            <option key={s}>{s}</option>
          ))}
        </select>
        {may('technician') && !issuing && (
          <span className="ml-auto flex gap-2">
            <button
              type="button"
              className="btn btn-primary"
              onClick={() => void navigate(`/${id}/stock?issue=latest`)}
            >
              Issue from the latest read
            </button>
            <button type="button" className="btn btn-line" onClick={() => void navigate(`/${id}/stock?issue=new`)}>
              Issue by hand
            </button>
          </span>
        )}
      </div>
      <FailureNote failure={error} />
      <div
        className={`grid min-h-0 flex-1 gap-3 ${issuing || chosen ? 'grid-cols-[minmax(0,1fr)_minmax(0,25rem)] max-lg:grid-cols-1' : ''}`}
      >
        <section className="panel min-h-0 overflow-auto" aria-label="Cards">
          <CardTable
            cards={data}
            chosen={cardId}
            empty={
              isFetching
                ? 'Loading …'
                : sought || state
                  ? 'No card has that.'
                  : 'No card is on file yet. Hold one to a reader and issue it from the latest read.'
            }
          />
        </section>
        {issuing ? (
          <IssueCard
            key={`${issuing} ${query.get('format')}`}
            from={issuing === 'read' || issuing === 'latest' ? issuing : null}
            formatId={query.get('format')}
          />
        ) : (
          chosen && <OneCard key={`${chosen.id} ${chosen.revision}`} card={chosen} />
        )}
      </div>
    </div>
  );
}
