/** Events: what happened at the doors. */

import { type AccessEvent, eventApi } from '@rawbits/api';
import { and, desc, eq, lt, type SQL, sql } from 'drizzle-orm';
import type { MySqlColumn } from 'drizzle-orm/mysql-core';
import type { Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { controllerTable, eventTable, formerDeviceTable, readerTable } from './tables.ts';

/** The name of a controller or a reader, also where it was removed since; null where nothing of it is known. */
export const nameEvenGone = (name: MySqlColumn, id: MySqlColumn) =>
  sql<string | null>`coalesce(${name}, (select f.name from ${formerDeviceTable} f where f.id = ${id}))`;

/** Events of a site, newest first; `where` may be over the tables of events, controllers and readers. */
export async function eventsOf(
  db: Queryable,
  siteId: string,
  { where, limit }: { where?: SQL | undefined; limit: number },
): Promise<AccessEvent[]> {
  const rows = await db
    .select({
      event: eventTable,
      controller: nameEvenGone(controllerTable.name, eventTable.controllerId),
      reader: nameEvenGone(readerTable.name, eventTable.readerId),
    })
    .from(eventTable)
    .leftJoin(controllerTable, eq(controllerTable.id, eventTable.controllerId))
    .leftJoin(readerTable, eq(readerTable.id, eventTable.readerId))
    .where(and(eq(eventTable.siteId, siteId), where))
    .orderBy(desc(eventTable.at), desc(eventTable.id))
    .limit(limit);
  return rows.map(({ event, controller, reader }) => ({
    id: event.id,
    at: event.at.toISOString(),
    kind: event.kind as AccessEvent['kind'],
    controller: event.controllerId === null ? null : { id: event.controllerId, name: controller ?? event.controllerId },
    reader: event.readerId === null ? null : { id: event.readerId, name: reader ?? event.readerId },
    readId: event.readId,
    bits: event.bits,
    outcome: event.outcome as AccessEvent['outcome'],
    stoppedAt: event.stoppedAt as AccessEvent['stoppedAt'],
    reason: event.reason,
    advice: event.advice,
    card: event.cardId === null ? null : { id: event.cardId, holder: event.holder },
    chip: event.chip as AccessEvent['chip'],
  }));
}

const list = handle(eventApi.list, ({ app, site, query: { controller, before, limit } }) =>
  eventsOf(app.db, site, {
    where: and(
      controller === undefined ? undefined : eq(eventTable.controllerId, controller),
      before === undefined ? undefined : lt(eventTable.at, new Date(before)),
    ),
    limit,
  }),
);

export const eventRoutes = [list];
