/** A read as the API gives it. */
import type { Read } from '@rawbits/api';
import { and, eq, sql } from 'drizzle-orm';
import { eventTable } from '../doors/index.ts';
import { readTable } from './tables.ts';

type Event = typeof eventTable.$inferSelect;
type Row = {
  read: typeof readTable.$inferSelect;
  reader: { id: string; name: string } | null;
  event: Decided | null;
};
/** What was decided on a read, as far as it concerns it. */
type Decided = Pick<Event, 'at' | 'outcome' | 'stoppedAt' | 'reason' | 'advice'>;

/** The event of a read: both are named after the presentation. */
export const ofRead = and(
  eq(eventTable.id, sql`concat('e-', substring(${readTable.id}, 3))`),
  eq(eventTable.readId, readTable.id),
);

export function describeRead({ read, reader, event }: Row): Read {
  return {
    id: read.id,
    at: read.at.toISOString(),
    bits: read.bits,
    source: read.source as Read['source'],
    notation: read.notation,
    reader: reader && { id: reader.id, name: reader.name },
    decision: event && {
      at: event.at.toISOString(),
      outcome: event.outcome as 'opened' | 'refused',
      stoppedAt: event.stoppedAt as NonNullable<Read['decision']>['stoppedAt'],
      reason: event.reason,
      advice: event.advice,
    },
  };
}
