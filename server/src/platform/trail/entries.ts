/** Entries of the trail as the API gives them. */
import type { TrailEntry } from '@rawbits/api';
import { desc, type SQL } from 'drizzle-orm';
import type { Queryable } from '../database/index.ts';
import { trailTable } from './tables.ts';

/** The entries for which `where` holds, newest first. */
export async function entriesOf(db: Queryable, where: SQL | undefined, limit: number): Promise<TrailEntry[]> {
  const rows = await db.select().from(trailTable).where(where).orderBy(desc(trailTable.name)).limit(limit);
  return rows.map((row) => ({
    name: row.name,
    seq: row.seq,
    at: (Number.isNaN(row.at.getTime()) ? new Date(0) : row.at).toISOString(),
    operator: row.operator,
    action: row.action,
    subject: row.subject,
    before: readable(row.before),
    after: readable(row.after),
  }));
}

/** What somebody put into the database by hand may be no JSON; the list shows it all the same. */
function readable(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
}
