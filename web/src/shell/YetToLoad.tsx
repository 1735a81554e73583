/** After a change was saved: which controllers have yet to be loaded with it. Until they are, or until it is put away. */
import { useEffect, useRef } from 'react';
import { Link } from 'react-router';
import { useControllersQuery } from '../platform/endpoints/doors.ts';
import { leftToLoad } from '../platform/frame/slice.ts';
import { useSite } from '../platform/site/useSite.ts';
import { useAppDispatch, useAppSelector } from '../platform/state/hooks.ts';
import { counted } from '../platform/words/words.ts';

export function YetToLoad() {
  const { id } = useSite();
  const toLoad = useAppSelector((state) => state.frame.toLoad);
  return toLoad?.site === id ? <Waiting site={id} change={toLoad.change} /> : null;
}

function Waiting({ site, change }: { site: string; change: string }) {
  const dispatch = useAppDispatch();
  const { data = [] } = useControllersQuery(site);
  const waiting = data.filter(({ standing }) => standing !== 'current' && standing !== 'no answer');
  // What is known just after saving may be from before it: only what was seen to wait can be done with.
  const waited = useRef(false);
  useEffect(() => {
    if (waiting.length > 0) waited.current = true;
    else if (waited.current) dispatch(leftToLoad(null));
  }, [waiting.length, dispatch]);
  if (waiting.length === 0) return null;
  return (
    <section
      className="flex flex-wrap items-baseline gap-x-3 gap-y-1 border-b border-signal bg-base-100 px-4 py-1"
      aria-label="Yet to be loaded"
    >
      <span>
        <strong className="text-signal">Saved, but not at the doors yet</strong> ({change}). Load:
      </span>
      {waiting.map(({ id, name, standing, waitingCount, waitingMore }) => (
        <Link key={id} to={`/${site}/doors?controller=${id}`} className="underline underline-offset-4">
          {name}
          <span className="text-ink-2">
            {' '}
            (
            {standing === 'changes waiting'
              ? `${waitingMore ? 'more than ' : ''}${counted(waitingCount, 'change')}`
              : standing}
            )
          </span>
        </Link>
      ))}
      <button type="button" className="switch-link ml-auto" onClick={() => dispatch(leftToLoad(null))}>
        put away
      </button>
    </section>
  );
}
