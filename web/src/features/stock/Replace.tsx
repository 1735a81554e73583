/** Another card in place of one that is lost or broken: from stock, by its read or by its number. */
import { type Card, ENDED_STATES } from '@rawbits/api';
import { useDeferredValue, useState } from 'react';
import { useCardsInfiniteQuery, useReplaceCardMutation } from '../../platform/endpoints/cards.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { said } from '../../platform/frame/slice.ts';
import { useNavigateFromHere } from '../../platform/hooks/useNavigateFromHere.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch, useAppSelector } from '../../platform/state/hooks.ts';
import { LoadToo } from './LoadToo.tsx';
import { useLoadFor } from './useLoadFor.ts';

export function Replace({ card }: { card: Card }) {
  const [isOpen, setOpen] = useState(false);
  if (card.holder === null || card.state === 'in stock') return null;
  if (isOpen) return <Replacing card={card} onDone={() => setOpen(false)} />;
  return (
    <p className="flex flex-wrap items-center gap-2 border-t border-faint pt-3">
      <span className="text-ink-2">Lost or broken?</span>
      <button type="button" className="btn btn-line btn-small" onClick={() => setOpen(true)}>
        Replace it …
      </button>
    </p>
  );
}

/** What in stock a read or a typed text means: of a read the very card, of a text the first that is found. */
function useInStock(typed: string): { found: Card | undefined; isRead: boolean } {
  const { id: site } = useSite();
  const latest = useAppSelector(({ read }) => read.latest);
  const [before] = useState(latest && `${latest.at} ${latest.bits}`);
  const read = latest && `${latest.at} ${latest.bits}` !== before && typed === '' ? latest.bits : undefined;
  const search = useDeferredValue(typed.trim());
  const ofSite = { site, state: 'in stock' as const };
  const byRead = useCardsInfiniteQuery({ ...ofSite, bits: read! }, { skip: read === undefined });
  const byText = useCardsInfiniteQuery({ ...ofSite, search, order: 'number' }, { skip: search === '' });
  const query = read === undefined ? byText : byRead;
  const isAsked = read !== undefined || search !== '';
  // Of what is typed now: Enter must not take what an earlier text found.
  const isNow = read !== undefined || search === typed.trim();
  const found = isAsked && isNow ? query.currentData?.pages[0]?.cards[0] : undefined;
  return { found, isRead: read !== undefined };
}

function Replacing({ card, onDone }: { card: Card; onDone: () => void }) {
  const { id: site, may } = useSite();
  const [loads, setLoads] = useState(may('load doors'));
  const loadFor = useLoadFor();
  const navigate = useNavigateFromHere();
  const dispatch = useAppDispatch();
  const [state, setState] = useState<(typeof ENDED_STATES)[number]>('lost');
  const [reason, setReason] = useState('');
  const [typed, setTyped] = useState('');
  const { found, isRead } = useInStock(typed);
  const [replace, { error, isLoading }] = useReplaceCardMutation();
  const submit = async (event: React.FormEvent) => {
    event.preventDefault();
    if (!found) return;
    const by = { id: found.id, revision: found.revision };
    const { data } = await replace({ site, id: card.id, replacement: { revision: card.revision, state, reason, by } });
    if (!data) return;
    const done = loads ? await loadFor([card.formatId, data.formatId]) : 'load the controllers for it to take effect';
    dispatch(said(`Card ${data.number} replaces ${card.number}; ${done}`));
    navigate(`/${site}/stock/${data.id}`);
  };
  return (
    <form onSubmit={submit} className="grid grid-cols-2 gap-3 border-t border-faint pt-3" aria-label="Replace the card">
      <p className="col-span-2">
        A card from stock takes over {card.holder!.name} and the days. At each door this one stops, and the new one
        opens, when its controller is loaded. Hold the new card to a reader, or type its number.
      </p>
      <Field label="This one is">
        {(props) => (
          <select
            {...props}
            value={state}
            onChange={(event) => setState(event.target.value as typeof state)}
            className="select w-full"
          >
            {ENDED_STATES.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </select>
        )}
      </Field>
      <Field label="Why">
        {(props) => (
          <input
            {...props}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
            className="input w-full"
            maxLength={400}
          />
        )}
      </Field>
      <Field label="Number of the new one" className="col-span-2">
        {(props) => (
          <input
            {...props}
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            className="input w-full font-mono"
          />
        )}
      </Field>
      <p className="col-span-2" role="status" data-testid="replacement">
        {found ? (
          <>
            {isRead ? 'Read: ' : 'In stock: '}
            <strong className="font-mono">
              {found.facility !== null && `${found.facility}/`}
              {found.number}
            </strong>
            {found.printed && ` printed ${found.printed}`}
            {found.box && `, of the box ${found.box.name}`}
          </>
        ) : typed.trim() || isRead ? (
          <span className="text-signal">No card in stock is that one.</span>
        ) : (
          <span className="text-ink-2">No card is chosen yet.</span>
        )}
      </p>
      {may('load doors') && (
        <div className="col-span-2">
          <LoadToo checked={loads} onChange={setLoads} why="until then the doors open as they do today" />
        </div>
      )}
      <div className="col-span-2">
        <FailureNote failure={error} />
      </div>
      <div className="col-span-2 flex gap-2">
        <button type="submit" className="btn btn-primary" disabled={isLoading || !found}>
          Replace it
        </button>
        <button type="button" className="btn btn-line" onClick={onDone}>
          Leave it
        </button>
      </div>
    </form>
  );
}
