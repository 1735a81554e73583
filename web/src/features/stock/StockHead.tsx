/** What cards are looked for by, how many were found, and the ways to issue one. */
import { type CardFilter, REPORTS } from '@rawbits/api';
import { CARD_STATES } from '@rawbits/core/access';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { useBoxQuery } from '../../platform/endpoints/boxes.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { counted } from '../../platform/words/words.ts';
import { AsList } from './AsList.tsx';
import { MoreFilters } from './MoreFilters.tsx';
import { SavedFilters } from './SavedFilters.tsx';
import { StockTabs } from './StockTabs.tsx';
import { choiceOf, chosen, EVERYTHING, narrows, reportChoices, type Sought, soughtFrom } from './sought.ts';

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

interface Props {
  sought: Sought;
  onSought: (next: Sought) => void;
  /** Undefined until it is known. */
  count: { total: number; more: boolean } | undefined;
  /** As the cards are narrowed. */
  filter: CardFilter;
  mayIssue: boolean;
}

function countWords(count: Props['count'], isNarrowed: boolean): string {
  if (!count) return 'Loading …';
  const { total, more } = count;
  const cards = more ? `more than ${total.toLocaleString('en')} cards` : counted(total, 'card');
  return `${cards} ${isNarrowed ? 'found' : 'on file'}`;
}

export function StockHead({ sought, onSought, count, filter, mayIssue }: Props) {
  const { id, zone } = useSite();
  const navigate = useNavigate();
  const [isMore, setMore] = useState(false);
  const { report } = sought;
  const { box } = filter;
  const found = sought.search.trim() !== '';
  const hidden = [sought.formatId, sought.facility, sought.group, sought.seen].filter(Boolean).length;
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>Stock</h1>
        <StockTabs />
        <span className="text-ink-2">{countWords(count, narrows(filter))}</span>
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
          value={choiceOf(sought)}
          onChange={({ target: { value } }) => onSought(chosen(sought, value))}
          aria-label="State"
          title={report ? REPORTS[report] : undefined}
          className="select w-36"
        >
          <option value="">every state</option>
          {CARD_STATES.map((s) => (
            <option key={s}>{s}</option>
          ))}
          <optgroup label="Reports">
            {reportChoices.map(({ name, value }) => (
              <option key={name} value={value} title={REPORTS[name]}>
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
        <button type="button" className="switch-link underline" aria-expanded={isMore} onClick={() => setMore(!isMore)}>
          {isMore ? 'fewer filters' : `more filters${hidden > 0 ? ` (${hidden} set)` : ''}`}
        </button>
        {narrows({ ...filter, box: undefined }) && (
          <button
            type="button"
            className="switch-link underline"
            onClick={() => onSought({ ...EVERYTHING, order: sought.order })}
          >
            show all
          </button>
        )}
        {mayIssue && (
          <span className="ml-auto flex flex-wrap gap-2">
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
      {isMore && (
        <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
          <MoreFilters sought={sought} onSought={onSought} />
          <SavedFilters
            filter={filter}
            onTake={(saved) => {
              onSought(soughtFrom(saved.filter, zone));
              void navigate(saved.filter.box ? `/${id}/stock?box=${saved.filter.box}` : `/${id}/stock`);
            }}
          />
          <AsList filter={filter} order={sought.order} />
        </div>
      )}
    </>
  );
}
