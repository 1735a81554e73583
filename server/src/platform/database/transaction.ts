/** Transactions that are tried again when another one was first, and that know when their outcome is not known. */
import { RawBitsError } from '@rawbits/core/failure';
import type { Database, Queryable } from './connect.ts';

/**
 * Lock wait, deadlock, "changed since last read" and a cluster node that is not ready: nothing of the transaction was
 * kept, and a second try may succeed. A cluster tells a lost certification as a deadlock at commit.
 */
const WORTH_A_RETRY = new Set([1205, 1213, 1020, 1047]);
const TRIES = 6;

export function errorNumber(error: unknown): number | undefined {
  for (let at = error; at instanceof Error; at = at.cause) {
    const { errno } = at as { errno?: number };
    if (typeof errno === 'number') return errno;
  }
  return undefined;
}

export const isDuplicate = (error: unknown): boolean => errorNumber(error) === 1062;

/** The connection went while it was committing: the change may stand or not. */
export class OutcomeUnknown extends RawBitsError {
  constructor(cause: unknown) {
    super({
      code: 'outcome-unknown',
      message: 'The database went away while it was saving: it may have been saved or not.',
      hint: 'Look before you do it again. Sending the same request once more does not save it twice.',
    });
    this.cause = cause;
  }
}

/** Runs `work` in one transaction, again when that is worth it. `work` must have no effect outside the database. */
export async function inTransaction<T>(db: Database, work: (tx: Queryable) => Promise<T>): Promise<T> {
  for (let attempt = 1; ; attempt++) {
    let committing = false;
    try {
      return await db.transaction(
        async (tx) => {
          const result = await work(tx as unknown as Queryable);
          committing = true;
          return result;
        },
        { isolationLevel: 'read committed' },
      );
    } catch (error) {
      const again = WORTH_A_RETRY.has(errorNumber(error) ?? 0);
      if (committing && !again) throw new OutcomeUnknown(error);
      if (attempt >= TRIES || !again) throw error;
      await new Promise((resolve) => setTimeout(resolve, 15 * 2 ** attempt * (0.5 + Math.random())));
    }
  }
}
