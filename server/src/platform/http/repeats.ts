/**
 * Requests that may be sent again. A request that names itself in `Idempotency-Key` (IETF httpapi draft "The
 * Idempotency-Key HTTP Header Field", §2) is carried out once: `change()` writes its key in the transaction of the
 * change, so it stands exactly when the change does. Sent again it gets the first answer.
 */

import { and, eq } from 'drizzle-orm';
import type { Request } from 'express';
import { conflict, HttpProblem, invalid } from '../problem/problem.ts';
import type { Once } from '../trail/change.ts';
import { requestTable } from '../trail/tables.ts';
import type { App } from './app.ts';

/** A longer answer is not kept: sending the request again is then told that it was done. */
const LONGEST_ANSWER = 200_000;
const WAIT_MS = 3000;

/** The key of a request, or undefined where it names none. */
export function onceOf(app: App, request: Request, body: unknown): Once | undefined {
  const key = request.headers['idempotency-key'];
  if (key === undefined || request.method === 'GET') return undefined;
  if (typeof key !== 'string' || !/^[\x21-\x7e]{8,80}$/.test(key))
    throw invalid('Idempotency-Key', 'The key of a request has 8 to 80 visible ASCII characters.');
  // A body may hold a password, so a plain hash of it would not do.
  const fingerprint = app.trail.keyed(JSON.stringify([request.method, request.originalUrl, body ?? null]));
  return { key, fingerprint, taken: false };
}

const rowOf = (operatorId: string, key: string) =>
  and(eq(requestTable.operatorId, operatorId), eq(requestTable.requestKey, key));

/** The answer that this request had before, as JSON text; undefined when it was not carried out yet. */
export async function earlierAnswer(app: App, operatorId: string, once: Once): Promise<string | undefined> {
  for (const until = performance.now() + WAIT_MS; ; ) {
    const [row] = await app.db.select().from(requestTable).where(rowOf(operatorId, once.key));
    if (!row) return undefined;
    if (row.fingerprint !== once.fingerprint)
      throw new HttpProblem(422, {
        code: 'key-reused',
        message: 'This Idempotency-Key belongs to another request.',
        hint: 'Give each request a key of its own.',
      });
    if (row.answer !== null) return row.answer;
    // The first try has committed but not yet answered; or its server stopped in between.
    if (performance.now() > until)
      throw conflict('done-already', 'This was saved by an earlier try.', 'Look at it as it is now.');
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}

export async function keepAnswer(app: App, operatorId: string, once: Once, answer: unknown): Promise<void> {
  const text = JSON.stringify(answer);
  if (text.length > LONGEST_ANSWER) return;
  await app.db
    .update(requestTable)
    .set({ answer: text })
    .where(rowOf(operatorId, once.key))
    .catch((error) => app.log.warn({ err: error }, 'an answer could not be kept'));
}
