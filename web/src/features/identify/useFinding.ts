/** The finding of a case, worked out in a worker; one under way is cancelled when the case changes. */
import { useEffect, useState } from 'react';
import { useWorker } from '../../platform/hooks/useWorker.ts';
import type { Answer, IdentifyWorker, Request, Step } from './identify.worker.ts';

const make = () => new Worker(new URL('./identify.worker.ts', import.meta.url), { type: 'module' });

/** The last answer stays until the next is there; `busy` says that one is on its way. */
export function useFinding(request: Request | undefined): { answer?: Answer; steps: Step[]; busy: boolean } {
  const { begin } = useWorker<IdentifyWorker>(make);
  const [state, setState] = useState<{ answer?: Answer; steps: Step[]; busy: boolean }>({ steps: [], busy: false });
  useEffect(() => {
    if (!request || request.specimens.length === 0) return setState({ steps: [], busy: false });
    let current = true;
    const { remote, done } = begin();
    setState((before) => ({ ...before, busy: true }));
    void (async () => {
      const answer = await remote.answer(request);
      if (!current) return;
      setState((before) => ({ ...before, answer, busy: false }));
      const steps = await remote.steps(request);
      if (current) setState({ answer, steps, busy: false });
      const isOpen = 'finding' in answer && answer.finding.tieBreaker?.gain !== undefined;
      const whole = isOpen && current ? await remote.withUntil(request) : answer;
      done();
      if (current && whole !== answer) setState({ answer: whole, steps, busy: false });
    })();
    return () => {
      current = false;
    };
  }, [request, begin]);
  return state;
}
