/**
 * Workers: heavy computation beside the thread that answers, so that one request does not stop the rest. One thread a
 * server, a queue before it, limits of time and memory; a job that passes them ends alone.
 */
import { Worker } from 'node:worker_threads';
import { type Failure, RawBitsError } from '@rawbits/core/failure';
import { HttpProblem } from '../problem/problem.ts';
import { JOBS, type Jobs } from './jobs.ts';

const LONGEST_MS = 20_000;
const MOST_WAITING = 8;
const MOST_MEMORY_MB = 512;

type Answer = { output: unknown } | { failure: Failure };

export class Workers {
  private worker?: Worker;
  private last: Promise<unknown> = Promise.resolve();
  private waiting = 0;

  /** Without the worker's program jobs are done where they are asked for. */
  constructor(private readonly file?: string) {}

  run<N extends keyof Jobs>(name: N, input: Parameters<Jobs[N]>[0]): Promise<Awaited<ReturnType<Jobs[N]>>> {
    type Output = Awaited<ReturnType<Jobs[N]>>;
    if (!this.file) return Promise.resolve((JOBS[name] as (input: unknown) => unknown)(input) as Output);
    if (this.waiting >= MOST_WAITING)
      throw new HttpProblem(503, {
        code: 'busy',
        message: 'The server has much to work out at the moment.',
        hint: 'Try again in a minute.',
      });
    this.waiting++;
    const done = this.last.then(() => this.ask(name, input)).finally(() => this.waiting--);
    this.last = done.catch(() => {});
    return done as Promise<Output>;
  }

  private async ask(name: keyof Jobs, input: unknown): Promise<unknown> {
    this.worker ??= new Worker(this.file!, { resourceLimits: { maxOldGenerationSizeMb: MOST_MEMORY_MB } });
    const { worker } = this;
    worker.unref();
    const answer = await new Promise<Answer | undefined>((resolve) => {
      const timer = setTimeout(resolve, LONGEST_MS, undefined);
      const end = (value: Answer | undefined) => {
        clearTimeout(timer);
        resolve(value);
      };
      worker.removeAllListeners();
      worker.once('message', end);
      worker.once('error', () => end(undefined));
      worker.once('exit', () => end(undefined));
      worker.postMessage({ name, input });
    });
    if (answer === undefined) {
      this.worker = undefined;
      void worker.terminate();
      throw new HttpProblem(422, {
        code: 'too-much',
        message: 'This takes more time or memory to work out than the server gives to one request.',
        hint: 'Divide it into smaller parts.',
      });
    }
    if ('failure' in answer) throw new RawBitsError(answer.failure);
    return answer.output;
  }

  async close(): Promise<void> {
    await this.worker?.terminate();
  }
}
