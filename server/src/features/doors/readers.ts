/** Readers and the doors that they are at: a reader of a controller is on one side of a door. */
import type { Way } from '@rawbits/core/access/rights';
import { and, eq } from 'drizzle-orm';
import { isDuplicate, newId, type Queryable } from '../../platform/database/index.ts';
import { conflict, invalid } from '../../platform/problem/problem.ts';
import { controllerTable, doorTable, readerTable } from './tables.ts';

interface NewReader {
  id?: string;
  name: string;
  kind: string;
  device: string;
  controllerId: string | null;
  /** The door that it is the other reader of; one of its own otherwise. */
  doorId?: string | null;
  way?: Way;
}

/** Puts a reader on file, with a door of its own where it is at a controller and names none. Gives its row. */
export async function addReader(tx: Queryable, siteId: string, { id = newId(), way = 'in', ...reader }: NewReader) {
  const doorId = reader.controllerId === null ? null : (reader.doorId ?? id);
  if (reader.controllerId !== null) await checkController(tx, siteId, reader.controllerId);
  if (reader.doorId) await checkSide(tx, siteId, reader.controllerId, reader.doorId, way);
  else if (doorId !== null && reader.controllerId !== null)
    await tx
      .insert(doorTable)
      .values({ id: doorId, siteId, controllerId: reader.controllerId, name: reader.name, byGroups: false });
  const row = { ...reader, id, siteId, doorId, way };
  await tx.insert(readerTable).values(row);
  return row;
}

export async function checkController(tx: Queryable, siteId: string, controllerId: string): Promise<void> {
  const own = and(eq(controllerTable.id, controllerId), eq(controllerTable.siteId, siteId));
  if ((await tx.$count(controllerTable, own)) === 0)
    throw invalid('controllerId', 'There is no such controller at this site.');
}

/** A door is of the reader's own controller, and has nobody on that side yet. */
async function checkSide(
  tx: Queryable,
  siteId: string,
  controllerId: string | null,
  doorId: string,
  way: Way,
): Promise<void> {
  const [door] = await tx
    .select()
    .from(doorTable)
    .where(and(eq(doorTable.id, doorId), eq(doorTable.siteId, siteId)));
  if (!door || door.controllerId !== controllerId)
    throw invalid('doorId', 'This controller has no such door.', 'Choose one of its doors.');
  const taken = and(eq(readerTable.doorId, doorId), eq(readerTable.way, way));
  if ((await tx.$count(readerTable, taken)) > 0)
    throw conflict('side-taken', `${door.name} has a reader for the way ${way} already.`, undefined, 'way');
}

/** A device is one controller, and one reader, of its site. */
export async function unlessTaken<T>(device: string | undefined, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw conflict('device-taken', `The device "${device}" is in use already.`, undefined, 'device');
  }
}
