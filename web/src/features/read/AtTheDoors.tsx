/** What was decided on the read when it came, and what the doors would decide on it now, by what they are loaded with. */
import type { ReadInHand } from '../../parts/inHand/slice.ts';
import { useDecideNowQuery } from '../../platform/endpoints/doors.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { nowInWords } from './view.ts';

export function AtTheDoors({ read }: { read: ReadInHand }) {
  const { id: site } = useSite();
  const clock = useClock();
  const { data, error } = useDecideNowQuery({ site, bits: read.bits });
  const { decision } = read;
  return (
    <section aria-label="At the doors" className="flex flex-col gap-1 border-t border-faint pt-2">
      {decision && (
        <p data-testid="decided">
          <strong className={decision.outcome === 'opened' ? 'text-primary' : 'text-signal'}>
            {decision.outcome === 'opened' ? 'Opened' : `Refused at the step ${decision.stoppedAt}`}
          </strong>{' '}
          at {read.from}, {clock(decision.at)}. {decision.reason}
          {decision.advice && ` ${decision.advice}`}
        </p>
      )}
      <p data-testid="now" className="text-ink-2">
        {data ? nowInWords(data) : 'Loading …'}
      </p>
      {data && data.length > 0 && (
        <details>
          <summary className="cursor-pointer text-ink-2">Why, door by door</summary>
          <ul>
            {data.map(({ reader, door, outcome, reason }) => (
              <li key={reader.id}>
                {door.name === reader.name ? door.name : `${door.name}, ${reader.name}`}:{' '}
                {outcome === 'opened' ? 'opens' : 'refuses'}. {reason}
              </li>
            ))}
          </ul>
        </details>
      )}
      <FailureNote failure={error} />
    </section>
  );
}
