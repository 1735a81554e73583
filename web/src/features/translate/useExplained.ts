/** What leads from one device to the other, worked out in a worker; one under way is given up when the pairs change. */
import type { Failure } from '@rawbits/core/failure';
import type { Explained, Pair } from '@rawbits/core/translate';
import { useEffect, useState } from 'react';
import { useWorker } from '../../platform/hooks/useWorker.ts';
import type { TranslateWorker } from './translate.worker.ts';

const make = () => new Worker(new URL('./translate.worker.ts', import.meta.url), { type: 'module' });

/** The last answer stays until the next is there. */
export function useExplained(pairs: readonly Pair[]): { result?: Explained; failure?: Failure } {
  const { begin } = useWorker<TranslateWorker>(make);
  const [answer, setAnswer] = useState<{ result?: Explained; failure?: Failure }>({});
  useEffect(() => {
    if (pairs.length === 0) return setAnswer({});
    let current = true;
    const { remote, done } = begin();
    void remote.explained([...pairs]).then((next) => {
      done();
      if (current) setAnswer(next);
    });
    return () => {
      current = false;
    };
  }, [pairs, begin]);
  return answer;
}
