/** Verifies a chain from its first entry to its noted head. */
import type { TrailVerification } from '@rawbits/core/api';
import { and, asc, eq, gt } from 'drizzle-orm';
import { tables } from '../database/index.ts';
import type { App } from '../http/app.ts';

const BATCH = 1000;

export async function verifyTrail(app: App, chain: string): Promise<TrailVerification> {
  const anchor = app.trail.anchorOf(chain);
  let [entries, previous, anchorSeen] = [0, '', anchor === undefined];
  const broken = (at: number, message: string) => ({ intact: false, entries, brokenAt: at, message });
  for (;;) {
    const batch = await app.db
      .select()
      .from(tables.trail)
      .where(and(eq(tables.trail.chain, chain), gt(tables.trail.seq, entries)))
      .orderBy(asc(tables.trail.seq))
      .limit(BATCH);
    for (const { hash, ...entry } of batch) {
      const wanted = entries + 1;
      if (entry.seq !== wanted)
        return broken(wanted, `Entry ${wanted} is missing: entry ${entry.seq} follows ${entries}.`);
      if (entry.previous !== previous || app.trail.hashOf(entry) !== hash)
        return broken(wanted, `Entry ${wanted} was changed after it was written, or the one before it was.`);
      if (anchor?.seq === wanted) {
        if (anchor.hash !== hash)
          return broken(wanted, `Entry ${wanted} is not the one that was noted outside the database.`);
        anchorSeen = true;
      }
      entries = wanted;
      previous = hash;
    }
    if (batch.length < BATCH) break;
  }
  if (!anchorSeen) return broken(entries + 1, `Entries ${entries + 1} to ${anchor!.seq} were cut off.`);
  const [row] = await app.db.select().from(tables.chains).where(eq(tables.chains.id, chain));
  if (row && row.trailSeq !== entries)
    return broken(entries + 1, `Entries ${entries + 1} to ${row.trailSeq} are missing.`);
  return { intact: true, entries, brokenAt: null, message: `All ${entries} entries are as they were written.` };
}
