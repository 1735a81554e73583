/** Cards that are held by their whole string and that this format reads: they gain their numbers. */
import type { SiteFormat } from '@rawbits/api';
import { isWhole } from '@rawbits/core/format';
import { useGiveNumbersMutation, useWholeCardsQuery } from '../../platform/endpoints/wholeCards.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { said } from '../../platform/frame/slice.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { counted } from '../../platform/words/words.ts';

const SHOWN = 20;

export function WholeCards({ entry: { format, adopted } }: { entry: SiteFormat }) {
  const { id: site, may } = useSite();
  const dispatch = useAppDispatch();
  const params = { site, format: format.id };
  const { currentData } = useWholeCardsQuery(params, { skip: !adopted || isWhole(format) });
  const [give, { error, isLoading }] = useGiveNumbersMutation();
  const cards = currentData?.cards ?? [];
  if (cards.length === 0) return null;
  const going = cards.filter(({ refused }) => refused === null);
  const go = async () => {
    const { data } = await give({ ...params, cards: going.map(({ id, revision }) => ({ id, revision })) });
    if (data) dispatch(said(`${counted(data.cards, 'card')} of ${format.name}; load the doors that accept it`));
  };
  return (
    <section className="border-l-4 border-signal pl-3" aria-label="Cards held by their whole string">
      <p>
        <strong>{counted(cards.length, 'card')}</strong> {cards.length === 1 ? 'is' : 'are'} on file by the whole string
        alone, and this format reads {cards.length === 1 ? 'it' : 'them'}.
      </p>
      <ul>
        {cards.slice(0, SHOWN).map(({ id, facility, number, holder, printed, refused }) => (
          <li key={id}>
            <span className="font-mono">
              {facility !== null && `${facility}/`}
              {number}
            </span>
            {holder && `, ${holder.name}`}
            {printed && <span className="text-ink-2">, printed {printed}</span>}
            {refused && <span className="text-signal"> {refused}</span>}
          </li>
        ))}
      </ul>
      {cards.length > SHOWN && <p className="text-ink-2">and {cards.length - SHOWN} more</p>}
      <FailureNote failure={error} />
      {may('keep cards') && going.length > 0 && (
        <button type="button" className="btn btn-line" disabled={isLoading} onClick={() => void go()}>
          Give {going.length === 1 ? 'it its number' : 'them their numbers'}
        </button>
      )}
    </section>
  );
}
