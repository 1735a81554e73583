/** Events: what happened at the doors. */
import { type AccessEvent, eventApi } from '@rawbits/api';
import { and, desc, eq, lt } from 'drizzle-orm';
import { type Queryable, tables } from '../database/index.ts';
import { handle } from '../http/app.ts';

export async function eventsOf(
  db: Queryable,
  siteId: string,
  filter: { controller?: string; before?: string; limit: number },
): Promise<AccessEvent[]> {
  const rows = await db
    .select({ event: tables.events, controller: tables.controllers.name, reader: tables.readers.name })
    .from(tables.events)
    .leftJoin(tables.controllers, eq(tables.controllers.id, tables.events.controllerId))
    .leftJoin(tables.readers, eq(tables.readers.id, tables.events.readerId))
    .where(
      and(
        eq(tables.events.siteId, siteId),
        filter.controller === undefined ? undefined : eq(tables.events.controllerId, filter.controller),
        filter.before === undefined ? undefined : lt(tables.events.at, new Date(filter.before)),
      ),
    )
    .orderBy(desc(tables.events.at), desc(tables.events.id))
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
