/** What entering a box would do, before anything is written: what is wrong first, then what it will be. */
import type { BoxReview } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { MiniTape } from '../../../parts/tape/MiniTape.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { counted } from '../../../platform/words/words.ts';
import { statesInWords } from './BoxTable.tsx';

const RUNS = 6;
const inWords = ({ from, to }: { from: string; to: string }): string => (from === to ? from : `${from} – ${to}`);

export function Review({ review }: { review: BoxReview }) {
  const warnings = warningsOf(review);
  return (
    <div className="flex flex-col gap-2 border-t border-faint pt-3" data-testid="review">
      <h3 className="font-bold">
        {counted(review.count, 'card')}
        {review.fresh < review.count && `, ${review.fresh.toLocaleString('en')} of them new`}
      </h3>
      {warnings.length > 0 ? (
        <ul className="flex list-disc flex-col gap-1 pl-5 text-signal" aria-label="What it meets">
          {warnings.map(([key, warning]) => (
            <li key={key}>{warning}</li>
          ))}
        </ul>
      ) : (
        <p>Nothing on file stands in the way.</p>
      )}
      <Between review={review} />
      <dl className="grid grid-cols-[auto_minmax(0,1fr)] gap-x-3 gap-y-2">
        <Delivers what="First" card={review.first} />
        <Delivers what="Last" card={review.last} />
      </dl>
    </div>
  );
}

function Delivers({ what, card: { number, printed, bits } }: { what: string; card: BoxReview['first'] }) {
  return (
    <>
      <dt className="text-ink-2">{what}</dt>
      <dd>
        <span className="font-mono font-bold">{number}</span>
        {printed !== number && <span className="text-ink-2"> printed {printed}</span>}{' '}
        <span className="font-mono text-ink-2">{Bits.fromBinary(bits).toHex()}</span>
        <MiniTape bits={bits} width={320} />
      </dd>
    </>
  );
}

/** Numbers between this box and its neighbours that are on no box. */
function Between({ review: { below, above } }: { review: BoxReview }) {
  const told = [
    below?.between && `${inWords(below.between)}, after ${below.name}`,
    above?.between && `${inWords(above.between)}, before ${above.name}`,
  ].filter(Boolean);
  if (told.length === 0) return null;
  return <p className="text-ink-2">On no box: {told.join('; ')}.</p>;
}

function warningsOf({ onFile, boxes, sameBits, sameNumber, reserved, count }: BoxReview): [string, ReactNode][] {
  const warnings: [string, ReactNode][] = [];
  if (onFile.cards > 0)
    warnings.push([
      'on file',
      <>
        {onFile.cards === count
          ? 'All of these cards are'
          : `${onFile.cards.toLocaleString('en')} of these cards ${onFile.cards === 1 ? 'is' : 'are'}`}{' '}
        on file already ({statesInWords(onFile.states)}): <Runs runs={onFile.runs} />. They would stay as they are.
      </>,
    ]);
  for (const box of boxes) warnings.push([box.id, <BoxMet key={box.id} box={box} />]);
  if (sameBits.cards > 0)
    warnings.push([
      'bits',
      <>
        {counted(sameBits.cards, 'card')} of another format {sameBits.cards === 1 ? 'delivers' : 'deliver'} the very
        bits of a card of this box: <Cards cards={sameBits.examples} />. A door cannot tell them apart.
      </>,
    ]);
  if (sameNumber.cards > 0)
    warnings.push([
      'number',
      <>
        At {sameNumber.controllers.join(', ')}, which {sameNumber.controllers.length === 1 ? 'ignores' : 'ignore'} the
        facility code, {sameNumber.more && 'more than '}
        {counted(sameNumber.cards, 'card')} of other codes {sameNumber.cards === 1 ? 'is' : 'are'} one with cards of
        this box: <Cards cards={sameNumber.examples} />.
      </>,
    ]);
  for (const { from, to, note } of reserved)
    warnings.push([`r ${from}`, `${inWords({ from, to })} is reserved${note ? `: ${note}` : ''}.`]);
  return warnings;
}

function BoxMet({ box: { id: box, name, from, to } }: { box: BoxReview['boxes'][number] }) {
  const { id } = useSite();
  return (
    <>
      The box{' '}
      <Link to={`/${id}/stock/boxes/${box}`} className="underline">
        {name}
      </Link>{' '}
      names {inWords({ from, to })}, too.
    </>
  );
}

const Runs = ({ runs }: { runs: BoxReview['onFile']['runs'] }) => (
  <span className="font-mono">
    {runs.slice(0, RUNS).map(inWords).join(', ')}
    {runs.length > RUNS && ` and ${runs.length - RUNS} runs more`}
  </span>
);

function Cards({ cards }: { cards: BoxReview['sameBits']['examples'] }) {
  const { id } = useSite();
  return cards.map((card, i) => (
    <span key={card.id}>
      {i > 0 && ', '}
      <Link to={`/${id}/stock/${card.id}`} className="font-mono underline">
        {card.facility !== null && `${card.facility}/`}
        {card.number}
      </Link>
      {card.holder && ` (${card.holder})`}
    </span>
  ));
}
