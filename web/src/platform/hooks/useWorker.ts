/** A worker of a component’s own: what is under way in it is ended when something else is asked. */
import { type Remote, wrap } from 'comlink';
import { useCallback, useEffect, useRef } from 'react';

interface Running<T> {
  worker: Worker;
  remote: Remote<T>;
  busy: boolean;
}

export interface OwnWorker<T> {
  /** A worker that does nothing else; `done` says that it has ended what it was asked. */
  begin(): { remote: Remote<T>; done: () => void };
  /** The worker as it is, for what is asked beside. */
  ask(): Remote<T>;
}

/** `make` must stay the same function: `new Worker(new URL('./x.worker.ts', import.meta.url), { type: 'module' })`. */
export function useWorker<T>(make: () => Worker): OwnWorker<T> {
  const running = useRef<Running<T> | undefined>(undefined);
  const started = useCallback((): Running<T> => {
    if (!running.current) {
      const worker = make();
      running.current = { worker, remote: wrap<T>(worker), busy: false };
    }
    return running.current;
  }, [make]);
  const begin = useCallback(() => {
    // A worker in the middle of something is of no more use: ending it is the one sure way to cancel.
    if (running.current?.busy) {
      running.current.worker.terminate();
      running.current = undefined;
    }
    const own = started();
    own.busy = true;
    return {
      remote: own.remote,
      done: () => {
        own.busy = false;
      },
    };
  }, [started]);
  const ask = useCallback(() => started().remote, [started]);
  useEffect(() => () => running.current?.worker.terminate(), []);
  return { begin, ask };
}
