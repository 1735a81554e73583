/** What is certain for this box: how many of its cards are proven, settled, likely or open, and each by itself along a strip. */
import { type BoxCard, type BoxFinding, percentOf } from '@rawbits/core/identify';
import { useState } from 'react';
import { CopyButton } from '../../parts/copy/CopyButton.tsx';
import { boxInWords } from '../../parts/strip/boxInWords.ts';
import { cardsInCell } from '../../parts/strip/geometry.ts';
import { Strip } from '../../parts/strip/Strip.tsx';
import { StripLegend } from '../../parts/strip/StripLegend.tsx';

const READ = (row: number | undefined) => (row === undefined ? '' : ` It is specimen ${row}.`);

export function cardInWords({ number: printed, standing, odds, row }: BoxCard): string {
  if (standing === 'likely') return `Card ${printed}: likely, with ${percentOf(odds!)} %.${READ(row)}`;
  if (standing !== 'open') return `Card ${printed}: ${standing}.${READ(row)}`;
  return `Card ${printed}: open${odds === null ? '' : `, the likeliest bits are so with ${percentOf(odds)} %`}.${READ(row)}`;
}

const CERTAIN = { open: 0, likely: 1, settled: 2, proven: 3 } as const;
const leastCertain = (cards: readonly BoxCard[]): BoxCard =>
  cards.reduce((least, card) => (CERTAIN[card.standing] < CERTAIN[least.standing] ? card : least));

/** `onWhy`: asks why a card stands so, and which errors that withstands; it is answered among the predictions. */
export function Box({ range, onWhy }: { range: BoxFinding; onWhy?: (number: string) => void }) {
  const [cursor, setCursor] = useState(0);
  const { cards, family } = range;
  const each = cardsInCell(cards.length);
  const from = Math.min(cursor * each, cards.length - 1);
  const own = cards.slice(from, from + each);
  // Of several in one cell the one that was read, or the first that is least certain.
  const card = own.find(({ row }) => row !== undefined) ?? leastCertain(own);
  const inWords = (from: number, to: number) =>
    from === to ? cardInWords(cards[from]!) : `Cards ${cards[from]!.number} to ${cards[to]!.number}`;
  return (
    <section className="panel grid gap-1 px-3 py-2 print:hidden" aria-label="What is certain for this box">
      <p className="flex flex-wrap items-baseline gap-x-4">
        <strong data-testid="box">{boxInWords(range)}</strong>
        {!range.given && <span className="text-ink-2">These numbers are the prints’ own, to round hundreds.</span>}
      </p>
      <Strip cards={cards} label="Cards of the box" cursor={cursor} onCursor={setCursor} inWords={inWords} />
      <p className="flex min-h-6 flex-wrap items-baseline gap-x-2" aria-live="polite" data-testid="box-card">
        <StripLegend />
        <span>{cardInWords(card)}</span>
        {card.bits && card.standing !== 'open' && (
          <>
            <code className="font-mono text-[0.9rem] break-all">{card.bits}</code>
            <CopyButton text={card.bits} what={`the bits of ${card.number}`} />
          </>
        )}
        {onWhy && (
          <button type="button" className="switch-link" onClick={() => onWhy(card.number)}>
            why
          </button>
        )}
        {family && (
          <span className="ml-auto text-[0.9rem] text-ink-2">
            {inPowers(family.survivors)} of about {inPowers(family.size)} formats are left
          </span>
        )}
      </p>
    </section>
  );
}

/** `6.1 × 10^31` of `6.1e31`. */
const inPowers = (count: string): string => count.replace(/e(\d+)$/, ' × 10^$1');
