/**
 * The queue of verifications: one at a time on a server, however many ask, and who waits for the same chain waits for
 * the same answer. A long one takes a page at a time and lets others in between.
 */

import { HttpProblem } from '../problem/problem.ts';
import type { TrailApp } from './app.ts';
import { type Verified, verifyChain } from './verify.ts';

const MOST_WAITING = 20;

export class Verifier {
  private last: Promise<unknown> = Promise.resolve();
  private readonly waiting = new Map<string, Promise<Verified>>();

  verify(app: TrailApp, chain: string): Promise<Verified> {
    const same = this.waiting.get(chain);
    if (same) return same;
    if (this.waiting.size >= MOST_WAITING)
      throw new HttpProblem(503, {
        code: 'busy',
        message: 'Many records are being verified at the moment.',
        hint: 'Try again in a minute.',
      });
    const verified = this.last.then(() => {
      // Whoever asks from now on wants what is there then.
      this.waiting.delete(chain);
      return verifyChain(app, chain);
    });
    this.waiting.set(chain, verified);
    this.last = verified.catch(() => {});
    return verified;
  }
}
