/** What happened at a site: events of its doors and changes of its record, in one order, page by page. */
import { type AccessEvent, type Happened, type happenedQuerySchema, type TrailEntry, trailApi } from '@rawbits/api';
import { and, eq, gte, like, lt, lte, or, type SQL, sql } from 'drizzle-orm';
import { z } from 'zod';
import { type App, handle } from '../../platform/http/app.ts';
import { invalid } from '../../platform/problem/problem.ts';
import { entriesOf } from '../../platform/trail/entries.ts';
import { trailTable } from '../../platform/trail/tables.ts';
import { controllerTable, eventsOf, eventTable, nameEvenGone, readerTable } from '../doors/index.ts';

/** The last event and the last entry of the page before; nothing where it had none of them. */
const cursorSchema = z.object({
  event: z.tuple([z.iso.datetime(), z.string().max(40)]).nullable(),
  entry: z.string().max(40).nullable(),
});
type Cursor = z.output<typeof cursorSchema>;
type Asked = z.output<typeof happenedQuerySchema>;
const BEGINNING: Cursor = { event: null, entry: null };

function readCursor(text: string | undefined): Cursor {
  if (text === undefined) return BEGINNING;
  try {
    return cursorSchema.parse(JSON.parse(Buffer.from(text, 'base64url').toString('utf8')));
  } catch {
    throw invalid('after', 'This is not where a page ended.', 'Begin at the newest again.');
  }
}

/** Every word has to stand in one of these. */
const wordsIn = (search: string | undefined, texts: (SQL | typeof eventTable.reason)[]): SQL | undefined =>
  and(
    ...(search ?? '')
      .split(/\s+/)
      .filter((word) => word !== '')
      .map((word) => or(...texts.map((text) => like(text, `%${word.replace(/[\\%_]/g, '\\$&')}%`)))),
  );

const events = (app: App, site: string, asked: Asked, { event }: Cursor): Promise<AccessEvent[]> =>
  eventsOf(app.db, site, {
    where: and(
      asked.from === undefined ? undefined : gte(eventTable.at, new Date(asked.from)),
      asked.to === undefined ? undefined : lt(eventTable.at, new Date(asked.to)),
      // The bare limit on the instant lets the index find the page; the rest keeps events of one instant apart.
      event === null
        ? undefined
        : and(
            lte(eventTable.at, new Date(event[0])),
            or(lt(eventTable.at, new Date(event[0])), lt(eventTable.id, event[1])),
          ),
      wordsIn(asked.search, [
        eventTable.reason,
        sql`coalesce(${eventTable.advice}, '')`,
        sql`coalesce(${eventTable.holder}, '')`,
        sql`coalesce(${eventTable.outcome}, ${eventTable.kind})`,
        sql`coalesce(${nameEvenGone(readerTable.name, eventTable.readerId)}, '')`,
        sql`coalesce(${nameEvenGone(controllerTable.name, eventTable.controllerId)}, '')`,
      ]),
    ),
    limit: asked.limit + 1,
  });

const changes = (app: App, site: string, asked: Asked, { entry }: Cursor): Promise<TrailEntry[]> =>
  entriesOf(
    app.db,
    and(
      eq(trailTable.chain, site),
      asked.from === undefined ? undefined : gte(trailTable.at, new Date(asked.from)),
      asked.to === undefined ? undefined : lt(trailTable.at, new Date(asked.to)),
      entry === null ? undefined : lt(trailTable.name, entry),
      wordsIn(asked.search, [
        sql`${trailTable.operator}`,
        sql`${trailTable.action}`,
        sql`${trailTable.subject}`,
        sql`${trailTable.before}`,
        sql`${trailTable.after}`,
      ]),
    ),
    asked.limit + 1,
  );

const happened = handle(trailApi.happened, async ({ app, site, query }): Promise<Happened> => {
  const cursor = readCursor(query.after);
  const [at, changed] = await Promise.all([
    query.show === 'changes' ? [] : events(app, site, query, cursor),
    query.show === 'events' ? [] : changes(app, site, query, cursor),
  ]);
  const all = [
    ...at.map((event) => ({ kind: 'event' as const, at: event.at, event })),
    ...changed.map((change) => ({ kind: 'change' as const, at: change.at, change })),
  ].sort((a, b) => (a.at < b.at ? 1 : a.at > b.at ? -1 : 0));
  const rows = all.slice(0, query.limit);
  if (all.length <= query.limit) return { rows, next: null };
  const lastEvent = rows.findLast((row) => row.kind === 'event')?.event;
  const lastChange = rows.findLast((row) => row.kind === 'change')?.change;
  const next: Cursor = {
    event: lastEvent ? [lastEvent.at, lastEvent.id] : cursor.event,
    entry: lastChange?.name ?? cursor.entry,
  };
  return { rows, next: Buffer.from(JSON.stringify(next)).toString('base64url') };
});

export const happenedRoutes = [happened];
