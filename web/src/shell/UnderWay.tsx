/** What the site is busy with, on every screen, for as long as it is. */
import { useWorkQuery } from '../platform/endpoints/work.ts';
import { useSite } from '../platform/site/useSite.ts';

/** A server that stopped tells nothing any more: what is under way is asked for, too. */
const ASK_MS = 5000;

export function UnderWay() {
  const { id } = useSite();
  const { data: known } = useWorkQuery(id);
  const { data } = useWorkQuery(id, { pollingInterval: known?.length ? ASK_MS : 0 });
  return (
    data &&
    data.length > 0 && (
      <ul className="border-b border-base-300 bg-base-100 px-4 py-1" aria-label="Changes under way">
        {data.map(({ id: job, what, done, total, startedBy }) => (
          <li key={job} className="flex flex-wrap items-center gap-x-3">
            <span>{what}</span>
            <progress
              className="progress progress-primary w-40"
              value={done}
              max={Math.max(total, 1)}
              aria-label={what}
            />
            <span className="whitespace-nowrap text-ink-2">
              {done.toLocaleString('en')} of {total.toLocaleString('en')} · {startedBy}
            </span>
          </li>
        ))}
      </ul>
    )
  );
}
