/** Which card of a run a chip is: taken, finished, given up; each change whole or not at all. */
import { hexOf } from '@rawbits/core/cipher';
import { and, asc, eq, inArray, max, sql } from 'drizzle-orm';
import { inTransaction, isDuplicate, type Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { change } from '../../platform/trail/change.ts';
import { moveCards } from '../keys/index.ts';
import { countCarriers, type EncodedRow, encodedTable } from '../plans/index.ts';
import type { CarriedKeys } from './ring.ts';
import { type RunCardRow, type RunRow, runCardTable, runTable } from './tables.ts';

const cardOf = ({ runId, seq }: Pick<RunCardRow, 'runId' | 'seq'>) =>
  and(eq(runCardTable.runId, runId), eq(runCardTable.seq, seq));
const chipOf = (siteId: string, uid: string) => and(eq(encodedTable.siteId, siteId), eq(encodedTable.uid, uid));
const hold = (tx: Queryable, id: string) =>
  tx
    .update(runTable)
    .set({ guard: sql`${runTable.guard} + 1` })
    .where(eq(runTable.id, id));

/** What the run has for a chip. */
export const ownOf = async (db: Queryable, runId: string, uid: string): Promise<RunCardRow | undefined> =>
  (
    await db
      .select()
      .from(runCardTable)
      .where(and(eq(runCardTable.runId, runId), eq(runCardTable.uid, uid)))
  )[0];

/** Takes the next number of an encoding run for a blank; undefined where none waits, or another run took the chip just now. */
export async function takeNext(app: App, run: RunRow, chip: Uint8Array): Promise<RunCardRow | undefined> {
  const uid = hexOf(chip);
  try {
    return await inTransaction(app.db, async (tx) => {
      await hold(tx, run.id);
      const [next] = await tx
        .select()
        .from(runCardTable)
        .where(and(eq(runCardTable.runId, run.id), eq(runCardTable.state, 'waiting')))
        .orderBy(asc(runCardTable.seq))
        .limit(1);
      if (!next) return undefined;
      const begunAt = new Date();
      await tx.update(runCardTable).set({ uid, state: 'begun', begunAt }).where(cardOf(next));
      await tx.insert(encodedTable).values({
        siteId: run.siteId,
        uid,
        planId: run.planId,
        version: run.version,
        cardId: next.cardId,
        state: 'begun',
        runId: run.id,
        seq: next.seq,
        keys: {},
        at: begunAt,
      });
      await tx
        .update(runTable)
        .set({ amiss: sql`${runTable.amiss} + 1` })
        .where(eq(runTable.id, run.id));
      return { ...next, uid, state: 'begun', begunAt };
    });
  } catch (error) {
    if (isDuplicate(error)) return undefined;
    throw error;
  }
}

/** Notes a chip that comes to a run which takes whatever comes: brought along, verified, taken back. */
export async function noteComer(app: App, run: RunRow, chip: EncodedRow): Promise<RunCardRow> {
  return inTransaction(app.db, async (tx) => {
    await hold(tx, run.id);
    const own = await ownOf(tx, run.id, chip.uid);
    const begunAt = new Date();
    if (own) {
      if (own.state !== 'begun') await tx.update(runCardTable).set({ state: 'begun', begunAt }).where(cardOf(own));
      return { ...own, state: 'begun', begunAt };
    }
    const [last] = await tx
      .select({ seq: max(runCardTable.seq) })
      .from(runCardTable)
      .where(eq(runCardTable.runId, run.id));
    const row = {
      runId: run.id,
      seq: (last?.seq ?? 0) + 1,
      siteId: run.siteId,
      cardId: chip.cardId,
      uid: chip.uid,
      state: 'begun',
      begunAt,
    };
    await tx.insert(runCardTable).values(row);
    await tx
      .update(runTable)
      .set({ amiss: sql`${runTable.amiss} + 1` })
      .where(eq(runTable.id, run.id));
    return { ...row, holds: null, message: '', tries: 0, endedAt: null };
  });
}

/** What is in the way of a card that stays begun. */
export async function noteTrouble(app: App, card: RunCardRow, message: string): Promise<void> {
  await app.db
    .update(runCardTable)
    .set({ message: message.slice(0, 400), tries: sql`${runCardTable.tries} + 1` })
    .where(cardOf(card));
}

/** What a card came to be in the end, and what the trail says of it. */
export interface End {
  state: 'finished' | 'differs' | 'freed';
  message?: string;
  action: string;
  called: string;
  /** The version of the plan and of its keys that the chip has now; null where it has none any more. */
  now: { version: number; keys: CarriedKeys } | null;
  /** The chip as it was on file. */
  before: EncodedRow;
}

/** Notes a card as done; the run with it where it was the last. */
export async function finish(app: App, run: RunRow, card: RunCardRow, end: End): Promise<void> {
  const { before, now } = end;
  const at = new Date();
  const tookMs = card.begunAt ? Math.min(at.getTime() - card.begunAt.getTime(), 3_600_000) : 0;
  await change(app, { id: 'server', name: run.startedBy }, run.siteId, async (tx, record) => {
    await hold(tx, run.id);
    const [ended] = await tx
      .update(runCardTable)
      .set({ state: end.state, holds: null, message: (end.message ?? '').slice(0, 400), endedAt: at })
      .where(and(cardOf(card), eq(runCardTable.state, 'begun')));
    // Given up meanwhile by somebody: it is not this run's any more.
    if (ended.affectedRows === 0) return;
    const wasWhole = before.state === 'whole';
    if (now === null) {
      await tx.delete(encodedTable).where(chipOf(run.siteId, before.uid));
      if (wasWhole) await countCarriers(tx, before, -1);
    } else {
      const keys = Object.fromEntries([...now.keys].map(([name, { version }]) => [name, version]));
      await tx
        .update(encodedTable)
        .set({ state: 'whole', planId: run.planId, version: now.version, keys, runId: run.id, seq: card.seq, at })
        .where(chipOf(run.siteId, before.uid));
      if (wasWhole) await countCarriers(tx, before, -1);
      await countCarriers(tx, { siteId: run.siteId, planId: run.planId, version: now.version, keys }, 1);
      if (before.cardId !== null)
        for (const { id, version } of now.keys.values()) await moveCards(tx, run.siteId, id, version, [before.cardId]);
    }
    const isWell = end.state !== 'differs';
    await tx
      .update(runTable)
      .set({
        done: sql`${runTable.done} + 1`,
        workedMs: sql`${runTable.workedMs} + ${tookMs}`,
        ...(isWell && { amiss: sql`${runTable.amiss} - 1` }),
      })
      .where(eq(runTable.id, run.id));
    if (run.kind === 'encode') await endIfLast(tx, run, at);
    record.trail({
      action: end.action,
      subject: `card ${end.called}`,
      after: {
        chip: before.uid,
        run: run.id,
        ...(now && { version: now.version }),
        ...(end.message && { found: end.message }),
      },
    });
    record.announce('runs', { ids: [run.id] });
    record.announce('plans', { ids: [run.planId] });
  });
}

async function endIfLast(tx: Queryable, run: RunRow, at: Date): Promise<void> {
  const [open] = await tx
    .select({ seq: runCardTable.seq })
    .from(runCardTable)
    .where(and(eq(runCardTable.runId, run.id), inArray(runCardTable.state, ['waiting', 'begun'])))
    .limit(1);
  if (!open) await tx.update(runTable).set({ state: 'done', endedAt: at }).where(eq(runTable.id, run.id));
}

/** Forgets a chip that was given up and has been freed since. */
export async function forgetFreed(app: App, chip: EncodedRow): Promise<void> {
  await app.db.delete(encodedTable).where(and(chipOf(chip.siteId, chip.uid), eq(encodedTable.state, 'given up')));
}
