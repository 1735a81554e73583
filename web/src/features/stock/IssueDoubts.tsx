/** What is not sure of a card that is being issued: which format it is of, and whether it is on file already. */
import type { Card } from '@rawbits/api';
import { Link } from 'react-router';
import { CodeName } from '../../parts/facility/CodeName.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import type { Issuing } from './useIssuing.ts';

/** Several formats fit: the print tells which it is, or whoever knows. */
export function WhichFormat({ issuing: { ways, choose, values } }: { issuing: Issuing }) {
  return (
    <fieldset className="border border-base-300 p-2">
      <legend className="px-1">
        {ways.length} formats in use fit this read. <strong>What is printed on the card?</strong> Type it below, or
        choose.
      </legend>
      {ways.map((way) => (
        <label key={way.format.id} className="flex min-h-6 items-center gap-2">
          <input
            type="radio"
            name="which-format"
            className="radio radio-xs"
            checked={values.formatId === way.format.id}
            onChange={() => choose(way)}
          />
          <span>
            {way.format.name}:{' '}
            <span className="font-mono">
              {way.values.facility === undefined ? '' : `${way.values.facility}/`}
              {way.values.number}
            </span>{' '}
            <CodeName code={way.values.facility} format={way.format.id} />
          </span>
        </label>
      ))}
    </fieldset>
  );
}

interface OnFileProps {
  cards: readonly Card[];
  mayGoOn: boolean;
  allTheSame: boolean;
  onAllTheSame: (yes: boolean) => void;
}

/** A reader cannot tell this card from those. */
export function OnFile({ cards, mayGoOn, allTheSame, onAllTheSame }: OnFileProps) {
  const { id } = useSite();
  return (
    <div role="status" className="border-l-4 border-signal pl-3" data-testid="on-file">
      {cards.map((card) => (
        <p key={card.id}>
          Already on file{card.holder ? ` for ${card.holder.name}` : `, ${card.state}`}: the same bits as{' '}
          <Link to={`/${id}/stock/${card.id}`} className="underline">
            card {card.facility === null ? '' : `${card.facility}/`}
            {card.number}
          </Link>{' '}
          of {card.formatId}.
        </p>
      ))}
      {mayGoOn && (
        <label className="flex min-h-6 items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={allTheSame}
            onChange={(event) => onAllTheSame(event.target.checked)}
          />
          Enter it all the same, under this format, too
        </label>
      )}
    </div>
  );
}

/** The card is in stock: it is issued as it was entered. */
export function FromStock({ card }: { card: Card }) {
  const { id } = useSite();
  return (
    <p role="status" data-testid="from-stock">
      In stock{card.box ? ', of the box ' : ' already: '}
      {card.box && (
        <Link to={`/${id}/stock/boxes/${card.box.id}`} className="underline">
          {card.box.name}
        </Link>
      )}
      {card.box && ': '}it is issued from there.
    </p>
  );
}
