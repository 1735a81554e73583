/** Says that the server does not answer, for as long as it does not, and what becomes of what is typed and pasted meanwhile. */
import { useEffect } from 'react';
import { api } from '../platform/api/api.ts';
import { serverAway } from '../platform/api/away.ts';
import { sessionApi } from '../platform/endpoints/session.ts';
import { EVERYTHING } from '../platform/live/outdated.ts';
import { useClock } from '../platform/site/useClock.ts';
import { useAppDispatch, useAppSelector } from '../platform/state/hooks.ts';
import { counted } from '../platform/words/words.ts';
import { useWaitingReads } from './waitingReads.ts';

const ASK_AGAIN_MS = 3000;

export function Away() {
  const since = useAppSelector((state) => state.away.since);
  const waiting = useWaitingReads();
  const clock = useClock();
  const dispatch = useAppDispatch();
  useEffect(() => {
    const offline = () => void dispatch(serverAway());
    window.addEventListener('offline', offline);
    return () => window.removeEventListener('offline', offline);
  }, [dispatch]);
  useEffect(() => {
    if (since === null) return;
    const ask = () =>
      void dispatch(sessionApi.endpoints.session.initiate(undefined, { forceRefetch: true, subscribe: false }));
    const timer = setInterval(ask, ASK_AGAIN_MS);
    window.addEventListener('online', ask);
    return () => {
      clearInterval(timer);
      window.removeEventListener('online', ask);
      // It is back: what happened meanwhile, nobody has told.
      dispatch(api.util.invalidateTags(EVERYTHING));
    };
  }, [since, dispatch]);
  if (since === null) return null;
  return (
    <p role="status" className="border-b border-signal bg-base-100 px-4 py-1 text-signal" data-testid="away">
      <strong>The server does not answer</strong> since {clock(new Date(since).toISOString())}. What you type stays
      here; what you paste is shown, and kept on the server when it answers again
      {waiting > 0 && `: ${counted(waiting, 'read')} ${waiting === 1 ? 'waits' : 'wait'}`}.
    </p>
  );
}
