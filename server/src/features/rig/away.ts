/** What a device host refused, as an answer of the API. */
import { deviceIdSchema } from '@rawbits/api';
import { HostRefusal } from '../../devices/line.ts';
import { conflict, HttpProblem, notFound } from '../../platform/problem/problem.ts';

/** What a host says that it has not, as it is called here. */
const MISSING: Record<string, string> = {
  'no-credential': 'credential in the tray of the rig',
  'no-reader': 'reader of the rig',
  'no-pad': 'pad',
  'no-controller': 'controller of the rig',
};

/** Throws 404 where something is no name that a credential of the tray could have. */
export function checkCredential(id: string): void {
  if (!deviceIdSchema.safeParse(id).success) throw notFound(MISSING['no-credential']!);
}

export function away(error: unknown): unknown {
  if (!(error instanceof HostRefusal)) return error;
  const { code, message } = error;
  const missing = code === undefined ? undefined : MISSING[code];
  if (missing !== undefined) return notFound(missing);
  // It answers, and does not do it.
  if (code !== undefined) return conflict(code, message);
  const hint = 'Start Raw Bits again with bin/start.';
  return new HttpProblem(503, { code: 'rig-away', message, hint });
}
