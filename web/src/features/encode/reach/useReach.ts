/** What some keys can do to a plan's card, worked out in a worker; one under way is ended when the plan changes. */
import type { ChipPlan } from '@rawbits/api';
import { type Remote, wrap } from 'comlink';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Answer, ReachWorker } from './reach.worker.ts';

interface Running {
  worker: Worker;
  remote: Remote<ReachWorker>;
  busy: boolean;
}

const start = (): Running => {
  const worker = new Worker(new URL('./reach.worker.ts', import.meta.url), { type: 'module' });
  return { worker, remote: wrap<ReachWorker>(worker), busy: false };
};

export function useReach(plan: ChipPlan, keys: readonly string[]) {
  const running = useRef<Running | undefined>(undefined);
  const [state, setState] = useState<{ answer?: Answer; busy: boolean }>({ busy: true });
  const chosen = keys.join('\n');
  useEffect(() => {
    let current = true;
    if (running.current?.busy) {
      running.current.worker.terminate();
      running.current = undefined;
    }
    running.current ??= start();
    const own = running.current;
    own.busy = true;
    setState((before) => ({ ...before, busy: true }));
    void own.remote.answer(plan, chosen === '' ? [] : chosen.split('\n')).then((answer) => {
      own.busy = false;
      if (current) setState({ answer, busy: false });
    });
    return () => {
      current = false;
    };
  }, [plan, chosen]);
  useEffect(() => () => running.current?.worker.terminate(), []);
  const play = useCallback(async (of: ChipPlan, steps: readonly { do: string }[]) => {
    running.current ??= start();
    return running.current.remote.play(of, steps);
  }, []);
  return { ...state, play };
}
