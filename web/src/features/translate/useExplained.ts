/** What leads from one device to the other, worked out in a worker; one under way is given up when the pairs change. */
import type { Failure } from '@rawbits/core/failure';
import type { Explained, Pair } from '@rawbits/core/translate';
import { type Remote, wrap } from 'comlink';
import { useEffect, useRef, useState } from 'react';
import type { TranslateWorker } from './translate.worker.ts';

interface Running {
  worker: Worker;
  remote: Remote<TranslateWorker>;
  busy: boolean;
}

const start = (): Running => {
  const worker = new Worker(new URL('./translate.worker.ts', import.meta.url), { type: 'module' });
  return { worker, remote: wrap<TranslateWorker>(worker), busy: false };
};

/** The last answer stays until the next is there. */
export function useExplained(pairs: readonly Pair[]): { result?: Explained; failure?: Failure } {
  const running = useRef<Running | undefined>(undefined);
  const [answer, setAnswer] = useState<{ result?: Explained; failure?: Failure }>({});
  useEffect(() => {
    if (pairs.length === 0) return setAnswer({});
    let current = true;
    if (running.current?.busy) {
      running.current.worker.terminate();
      running.current = undefined;
    }
    running.current ??= start();
    const own = running.current;
    own.busy = true;
    void own.remote.explained([...pairs]).then((next) => {
      own.busy = false;
      if (current) setAnswer(next);
    });
    return () => {
      current = false;
    };
  }, [pairs]);
  useEffect(() => () => running.current?.worker.terminate(), []);
  return answer;
}
