/** What was done with a card since it was entered, under the numbers that it had before, too. */
import type { Card } from '@rawbits/api';
import { BeforeAndAfter } from '../../parts/changes/ChangeLine.tsx';
import { sentenceOf } from '../../parts/changes/sentences.ts';
import { useCardHistoryQuery } from '../../platform/endpoints/cards.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';

export function CardHistory({ card }: { card: Card }) {
  const { id: site } = useSite();
  const { data = [], error } = useCardHistoryQuery({ site, id: card.id });
  const clock = useClock();
  return (
    <section aria-label="History" className="border-t border-faint pt-3">
      <h3 className="font-bold">History</h3>
      <FailureNote failure={error} />
      <ul>
        {data.map((change) => (
          <li key={change.name} className="py-0.5">
            <span className="text-ink-2">{clock(change.at)}</span> <strong>{change.operator}</strong>{' '}
            {sentenceOf(change)}
            <BeforeAndAfter change={change} />
          </li>
        ))}
      </ul>
      {data.length === 0 && <p className="text-ink-2">Nothing is noted of it: it came in with a file or a box.</p>}
    </section>
  );
}
