/** Events: what happened at the doors. */

import { type AccessEvent, eventApi } from '@rawbits/api';
import { and, desc, eq, lt } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { controllerTable, eventTable, readerTable } from './tables.ts';

export async function eventsOf(
  db: Queryable,
  siteId: string,
  filter: { controller?: string; before?: string; limit: number },
): Promise<AccessEvent[]> {
  const rows = await db
    .select({ event: eventTable, controller: controllerTable.name, reader: readerTable.name })
    .from(eventTable)
    .leftJoin(controllerTable, eq(controllerTable.id, eventTable.controllerId))
    .leftJoin(readerTable, eq(readerTable.id, eventTable.readerId))
    .where(
      and(
        eq(eventTable.siteId, siteId),
        filter.controller === undefined ? undefined : eq(eventTable.controllerId, filter.controller),
        filter.before === undefined ? undefined : lt(eventTable.at, new Date(filter.before)),
      ),
    )
    .orderBy(desc(eventTable.at), desc(eventTable.id))
    .limit(filter.limit);
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
  }));
}

const list = handle(eventApi.list, ({ app, site, query }) => eventsOf(app.db, site, query));

export const eventRoutes = [list];
