/** Transactions that are tried again when another one was first, and that know when their outcome is not known. */

import { type Database, type Queryable, queryableOf } from './connect.ts';
import { DatabaseBusy, isBroken, isConflict, isRefusedBefore, OutcomeUnknown, pauseMs } from './errors.ts';
import type { Session } from './nodes.ts';

const DEADLINE_MS = 10_000;
const ROLLBACK_MS = 2000;

/**
 * Runs `work` in one transaction, which sees what others commit meanwhile; again, with growing pauses and for up to ten
 * seconds, when another one was first. `work` must have no effect outside the database. Throws `busy` when the time is
 * over, `outcome-unknown` when the connection went at the commit.
 *
 * On a cluster a lock that is taken and not written holds on one node only: a check that must hold is guarded by a row
 * that the same transaction then writes (`guard`).
 */
export async function inTransaction<T>(db: Database, work: (tx: Queryable) => Promise<T>): Promise<T> {
  const until = performance.now() + DEADLINE_MS;
  for (let attempt = 1; ; attempt++) {
    try {
      return await once(db, 'BEGIN', work);
    } catch (error) {
      if (!isConflict(error) && !(db.$client.isCluster && isRefusedBefore(error))) throw error;
      if (performance.now() >= until) throw new DatabaseBusy(error);
      await new Promise((resolve) => setTimeout(resolve, pauseMs(attempt)));
    }
  }
}

/** Runs `work` on what was there at one moment, however long it takes and whatever others write meanwhile. */
export const inSnapshot = <T>(db: Database, work: (tx: Queryable) => Promise<T>): Promise<T> =>
  once(db, 'START TRANSACTION WITH CONSISTENT SNAPSHOT', work, 'SET TRANSACTION ISOLATION LEVEL REPEATABLE READ');

async function once<T>(db: Database, begin: string, work: (tx: Queryable) => Promise<T>, before?: string): Promise<T> {
  const session = await db.$client.take();
  let committing = false;
  try {
    if (before !== undefined) await session.query(before);
    await session.query(begin);
    const result = await work(queryableOf(session));
    committing = true;
    await session.query('COMMIT');
    session.end();
    return result;
  } catch (error) {
    if (isBroken(error)) session.end(error);
    else await rollBack(session, error);
    if (committing && !isConflict(error) && !isRefusedBefore(error)) throw new OutcomeUnknown(error);
    throw error;
  }
}

/** Undoes what was begun; a connection that cannot even do that is closed, and its end undoes it. */
async function rollBack(session: Session, why: unknown): Promise<void> {
  try {
    await session.within(ROLLBACK_MS, { sql: 'ROLLBACK' });
    session.end(why);
  } catch {
    session.giveUp();
  }
}
