/** What leads from one device's outputs to another's, in a worker of its own: typing is never held up. */
import type { Pair } from '@rawbits/core/translate';
import { expose } from 'comlink';
import { explained } from './pairs.ts';

const worker = { explained: (pairs: Pair[]) => explained(pairs) };
export type TranslateWorker = typeof worker;

expose(worker);
