/** The cards of a run; what was done to one stands below it, step by step. */
import type { Run, RunCard } from '@rawbits/api';
import { useEffect, useState } from 'react';
import { useGiveUpCardMutation, useRunCardsQuery } from '../../../platform/endpoints/runs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { CARD_WORDS } from '../words/words.ts';
import { CardSteps } from './CardSteps.tsx';

const PAGE = 200;

export function RunCards({ run }: { run: Run }) {
  const { id: site } = useSite();
  const [only, setOnly] = useState<'all' | 'amiss'>('all');
  const [from, setFrom] = useState(0);
  const [open, setOpen] = useState<number>();
  // Asked again whenever the run has moved on.
  const { data, error, refetch } = useRunCardsQuery({ site, id: run.id, after: from, limit: PAGE, only });
  const moved = `${run.done} ${run.amiss} ${run.pads.map(({ says }) => says).join()}`;
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is what moved that asks.
  useEffect(() => void refetch(), [moved, refetch]);
  return (
    <section className="panel shrink-0 p-2" aria-label="Cards of the run">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <h2>Cards</h2>
        {(['all', 'amiss'] as const).map((one) => (
          <button
            key={one}
            type="button"
            className="switch-link"
            aria-pressed={only === one}
            onClick={() => setOnly(one)}
          >
            {one === 'all' ? 'all' : 'only what is amiss'}
          </button>
        ))}
        <FailureNote failure={error} />
      </div>
      <table className="grid-table">
        <thead>
          <tr>
            <th scope="col">card</th>
            <th scope="col">holder</th>
            <th scope="col">chip</th>
            <th scope="col">stands</th>
            <th scope="col">
              <span className="sr-only">actions</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {data?.cards.map((card) => (
            <CardRow
              key={card.seq}
              run={run}
              card={card}
              isOpen={open === card.seq}
              onOpen={() => setOpen(open === card.seq ? undefined : card.seq)}
            />
          ))}
        </tbody>
      </table>
      {data?.cards.length === 0 && (
        <p className="p-2 text-ink-2">{run.kind === 'encode' ? 'None.' : 'No card has come yet.'}</p>
      )}
      <div className="flex gap-2">
        {from > 0 && (
          <button type="button" className="btn btn-line btn-small" onClick={() => setFrom(0)}>
            From the first
          </button>
        )}
        {data?.next != null && (
          <button type="button" className="btn btn-line btn-small" onClick={() => setFrom(data.next!)}>
            The next {PAGE}
          </button>
        )}
      </div>
    </section>
  );
}

function CardRow({ run, card, isOpen, onOpen }: { run: Run; card: RunCard; isOpen: boolean; onOpen: () => void }) {
  const { id: site, may } = useSite();
  const [giveUp, { error }] = useGiveUpCardMutation();
  const isAmiss = card.state === 'begun' || card.state === 'differs';
  return (
    <>
      <tr>
        <td className="font-mono">{card.card}</td>
        <td>{card.holder}</td>
        <td className="font-mono text-[0.9rem]">{card.uid}</td>
        <td>
          <span
            className={
              isAmiss
                ? 'font-bold text-signal'
                : card.state === 'finished' || card.state === 'freed'
                  ? 'text-primary'
                  : 'text-ink-2'
            }
          >
            {CARD_WORDS[card.state]}
          </span>
          {card.message && <span className="block text-[0.9rem]">{card.message}</span>}
          <FailureNote failure={error} />
        </td>
        <td className="text-right whitespace-nowrap">
          {card.state === 'begun' && may('encode cards') && (
            <button
              type="button"
              className="mr-3 cursor-pointer underline"
              onClick={() => void giveUp({ site, id: run.id, seq: String(card.seq) })}
            >
              give it up
            </button>
          )}
          {card.uid && (
            <button type="button" className="cursor-pointer underline" aria-expanded={isOpen} onClick={onOpen}>
              {isOpen ? 'close' : 'what was done'}
            </button>
          )}
        </td>
      </tr>
      {isOpen && (
        <tr>
          <td colSpan={5}>
            <CardSteps run={run} card={card} />
          </td>
        </tr>
      )}
    </>
  );
}
