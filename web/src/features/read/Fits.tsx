/** The formats that fit, best first, each with its reason; and the likely next step. */

import { Link } from 'react-router';
import { formatChosen, type ReadInHand } from '../../parts/inHand/slice.ts';
import { useCardsInfiniteQuery } from '../../platform/endpoints/cards.ts';
import { useControllersQuery } from '../../platform/endpoints/doors.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch, useAppSelector } from '../../platform/state/hooks.ts';
import { counted } from '../../platform/words/words.ts';
import { AcceptAtDoor } from './AcceptAtDoor.tsx';
import { AtTheDoors } from './AtTheDoors.tsx';
import { FitsTable } from './FitsTable.tsx';
import { nextStep, type ReadView, verdictOf } from './view.ts';

export function Fits({ view, inHand }: { view: ReadView; inHand: ReadInHand }) {
  const { bits } = inHand;
  const { id, may } = useSite();
  const dispatch = useAppDispatch();
  const { chosen } = view;
  const { data: controllers } = useControllersQuery(id);
  const number = chosen?.values.number;
  const { currentData: found } = useCardsInfiniteQuery(
    { site: id, search: `${number}-${number}` },
    { skip: number === undefined },
  );
  const card = found?.pages[0]?.cards.find(
    (c) =>
      c.formatId === chosen?.format.id && c.number === number && (c.facility ?? undefined) === chosen?.values.facility,
  );
  // Where several formats in use fit and nobody has said which it is, the form asks.
  const told = useAppSelector((state) => state.read.formatId) === chosen?.format.id || (chosen?.print ?? false);
  const isSure = told || view.rows.filter((row) => row.fit === 'full' && row.adopted).length <= 1;
  const isKnown = number === undefined || found !== undefined;
  const next = nextStep(view, controllers, isKnown ? card !== undefined : undefined);
  const style = (step: string) => `btn ${next.step === step ? 'btn-primary' : 'btn-line'}`;
  return (
    <section className="panel [grid-area:fits] flex min-h-0 flex-col gap-2 overflow-auto p-3" aria-label="What fits">
      <h2>
        What fits{' '}
        <span className="ml-2 font-normal text-ink-2">
          {view.isLoading ? 'Loading …' : `${counted(view.ofLength, 'format')} of ${bits.length} bits in the library`}
        </span>
      </h2>
      {view.rows.length > 0 && (
        <FitsTable rows={view.rows} chosen={chosen} onChoose={(format) => dispatch(formatChosen(format))} />
      )}
      <p data-testid="verdict">{verdictOf(view, card)}</p>
      {chosen && chosen.fit !== 'full' && <p className="text-signal">{chosen.reason}</p>}
      {chosen && (may('set up doors') || may('keep cards')) && (
        <div className="flex flex-wrap items-center gap-2">
          {chosen.fit === 'full' && controllers && may('set up doors') && (
            <AcceptAtDoor format={chosen.format} className={style('accept')} controllers={controllers} />
          )}
          {number !== undefined && found && !card && may('keep cards') && (
            <Link
              to={`/${id}/stock?issue=read${isSure ? `&format=${chosen.format.id}` : ''}`}
              className={style('issue')}
            >
              Issue this card
            </Link>
          )}
          {card && (
            <Link to={`/${id}/stock/${card.id}`} className={style('stock')}>
              {card.holder ? `${card.holder.name}’s card` : 'This card in Stock'}
            </Link>
          )}
          <span className="text-ink-2">{next.words}</span>
        </div>
      )}
      <AtTheDoors read={inHand} />
    </section>
  );
}
