/**
 * Arming a reader: the next card held to it within a while is the one that an operator waits for. Of two who would wait at one
 * reader the second is told; whichever server takes the read in, it finds who waits.
 */
import { type Armed, armingApi } from '@rawbits/api';
import { and, eq, isNull } from 'drizzle-orm';
import { endsWithin, isToCome, type Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import { change, type Record } from '../../platform/trail/change.ts';
import { eventTable, readerTable } from '../doors/index.ts';
import { describeRead, ofRead } from './describe.ts';
import { armedReaderTable, readTable } from './tables.ts';

/** As long as anybody can wait at a reader (`armingSchema`). */
const LONGEST_MS = 300_000;

async function armedAt(db: Queryable, siteId: string, operatorId: string): Promise<Armed[]> {
  const rows = await db
    .select({ armed: armedReaderTable, reader: readerTable, read: readTable, event: eventTable })
    .from(armedReaderTable)
    .innerJoin(readerTable, eq(readerTable.id, armedReaderTable.readerId))
    .leftJoin(readTable, eq(readTable.id, armedReaderTable.readId))
    .leftJoin(eventTable, ofRead)
    .where(and(eq(armedReaderTable.siteId, siteId), endsWithin(armedReaderTable.until, LONGEST_MS)));
  return rows.map(({ armed, reader, read, event }) => ({
    readerId: reader.id,
    reader: reader.name,
    by: armed.operator,
    isMine: armed.operatorId === operatorId,
    until: armed.until.toISOString(),
    leftMs: Math.max(0, armed.until.getTime() - Date.now()),
    read: read && describeRead({ read, reader, event }),
  }));
}

const list = handle(armingApi.list, ({ app, operator, site }) => armedAt(app.db, site, operator.id));

const arm = handle(armingApi.arm, async ({ app, operator, site, params, body }) => {
  const readerId = params.id!;
  await change(app, operator, site, async (tx, record) => {
    const [reader] = await tx
      .select()
      .from(readerTable)
      .where(and(eq(readerTable.id, readerId), eq(readerTable.siteId, site)));
    if (!reader) throw notFound('reader');
    const own = eq(armedReaderTable.readerId, readerId);
    const until = new Date(Date.now() + body.seconds * 1000);
    const row = { siteId: site, operatorId: operator.id, operator: operator.name, until, readId: null };
    // The row is there before it is looked at, so that of two who arm it at once one waits for the other.
    const over = new Date(0);
    await tx
      .insert(armedReaderTable)
      .ignore()
      .values({ readerId, ...row, until: over });
    const [before] = await tx.select().from(armedReaderTable).where(own).for('update');
    if (before && isToCome(before.until, LONGEST_MS) && before.readId === null && before.operatorId !== operator.id)
      throw conflict(
        'armed',
        `${before.operator} waits for a card at ${reader.name}.`,
        'Wait until they are done, or take another reader.',
      );
    await tx.update(armedReaderTable).set(row).where(own);
    record.announce('arming');
  });
  return (await armedAt(app.db, site, operator.id)).find((armed) => armed.readerId === readerId)!;
});

const disarm = handle(armingApi.disarm, async ({ app, operator, site, params }) => {
  await change(app, operator, site, async (tx, record) => {
    const own = and(
      eq(armedReaderTable.readerId, params.id!),
      eq(armedReaderTable.siteId, site),
      eq(armedReaderTable.operatorId, operator.id),
    );
    const [gone] = await tx.delete(armedReaderTable).where(own);
    if (gone.affectedRows === 0) throw notFound('reader that you wait at');
    record.announce('arming');
  });
  return {};
});

/** A read came from a reader: where somebody waits at it, it is theirs, and they wait no more. */
export async function fillArmed(tx: Queryable, record: Record, readerId: string, readId: string): Promise<void> {
  const waiting = and(
    eq(armedReaderTable.readerId, readerId),
    isNull(armedReaderTable.readId),
    endsWithin(armedReaderTable.until, LONGEST_MS),
  );
  const [filled] = await tx.update(armedReaderTable).set({ readId }).where(waiting);
  if (filled.affectedRows > 0) record.announce('arming');
}

export const armingRoutes = [list, arm, disarm];
