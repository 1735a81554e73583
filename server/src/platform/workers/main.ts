/** A worker's thread: does one job after another and sends back what came of it. */
import { parentPort } from 'node:worker_threads';
import { failureOf } from '@rawbits/core/failure';
import { JOBS, type Jobs } from './jobs.ts';

parentPort!.on('message', async ({ name, input }: { name: keyof Jobs; input: Parameters<Jobs[keyof Jobs]>[0] }) => {
  try {
    parentPort!.postMessage({ output: await (JOBS[name] as (input: unknown) => unknown)(input) });
  } catch (error) {
    parentPort!.postMessage({ failure: failureOf(error) });
  }
});
