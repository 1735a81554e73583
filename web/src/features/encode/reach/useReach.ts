/** What some keys can do to a plan's card, worked out in a worker; one under way is ended when the plan changes. */
import type { ChipPlan } from '@rawbits/api';
import { useCallback, useEffect, useState } from 'react';
import { useWorker } from '../../../platform/hooks/useWorker.ts';
import type { Answer, ReachWorker } from './reach.worker.ts';

const make = () => new Worker(new URL('./reach.worker.ts', import.meta.url), { type: 'module' });

export function useReach(plan: ChipPlan, keys: readonly string[]) {
  const { begin, ask } = useWorker<ReachWorker>(make);
  const [state, setState] = useState<{ answer?: Answer; busy: boolean }>({ busy: true });
  const chosen = keys.join('\n');
  useEffect(() => {
    let current = true;
    const { remote, done } = begin();
    setState((before) => ({ ...before, busy: true }));
    void remote.answer(plan, chosen === '' ? [] : chosen.split('\n')).then((answer) => {
      done();
      if (current) setState({ answer, busy: false });
    });
    return () => {
      current = false;
    };
  }, [plan, chosen, begin]);
  const play = useCallback(async (of: ChipPlan, steps: readonly { do: string }[]) => ask().play(of, steps), [ask]);
  return { ...state, play };
}
