/** The finding of a case, worked out in a worker; one under way is cancelled when the case changes. */
import { type Remote, wrap } from 'comlink';
import { useEffect, useRef, useState } from 'react';
import type { Answer, IdentifyWorker, Request, Step } from './identify.worker.ts';

interface Running {
  worker: Worker;
  remote: Remote<IdentifyWorker>;
  busy: boolean;
}

const start = (): Running => {
  const worker = new Worker(new URL('./identify.worker.ts', import.meta.url), { type: 'module' });
  return { worker, remote: wrap<IdentifyWorker>(worker), busy: false };
};

/** The last answer stays until the next is there; `busy` says that one is on its way. */
export function useFinding(request: Request | undefined): { answer?: Answer; steps: Step[]; busy: boolean } {
  const running = useRef<Running | undefined>(undefined);
  const [state, setState] = useState<{ answer?: Answer; steps: Step[]; busy: boolean }>({ steps: [], busy: false });
  useEffect(() => {
    if (!request || request.specimens.length === 0) return setState({ steps: [], busy: false });
    let current = true;
    // A worker in the middle of something is of no more use: ending it is the one sure way to cancel.
    if (running.current?.busy) {
      running.current.worker.terminate();
      running.current = undefined;
    }
    running.current ??= start();
    const own = running.current;
    own.busy = true;
    setState((before) => ({ ...before, busy: true }));
    void (async () => {
      const answer = await own.remote.answer(request);
      if (!current) return;
      setState((before) => ({ ...before, answer, busy: false }));
      const steps = await own.remote.steps(request);
      if (current) setState({ answer, steps, busy: false });
      const isOpen = 'finding' in answer && answer.finding.tieBreaker?.gain !== undefined;
      const whole = isOpen && current ? await own.remote.withUntil(request) : answer;
      own.busy = false;
      if (current && whole !== answer) setState({ answer: whole, steps, busy: false });
    })();
    return () => {
      current = false;
    };
  }, [request]);
  useEffect(() => () => running.current?.worker.terminate(), []);
  return state;
}
