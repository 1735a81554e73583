/** What a device host refused, as an answer of the API. */
import { HostRefusal } from '../../devices/line.ts';
import { HttpProblem } from '../../platform/problem/problem.ts';

export function away(error: unknown): unknown {
  if (!(error instanceof HostRefusal)) return error;
  const hint = 'Start Raw Bits again with bin/start.';
  return new HttpProblem(503, { code: 'rig-away', message: error.message, hint });
}
