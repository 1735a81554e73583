/** The trail's key: where it is kept, and that every server of an installation has the same. */

import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { desc, eq } from 'drizzle-orm';
import type { Database } from '../database/index.ts';
import { installationTable } from '../database/tables.ts';
import { TrailKeeper } from './keeper.ts';
import { trailTable } from './tables.ts';

const KEY_FORM = /^[0-9a-f]{64}$/i;
const FINGERPRINT = 'trail key';
/** One of the last entries may have been tampered with; not all of them. */
const LOOKED_AT = 50;

/**
 * The keeper of the trail: its key in hex as given, or from the state folder, where it is made when there is none, and
 * its anchors in that folder. A folder is fresh when its key is made now, or when the key is given and it is empty.
 */
export function openTrail(folder: string, given: string | undefined): TrailKeeper {
  const file = join(folder, 'trail.key');
  const anchors = join(folder, 'trail');
  mkdirSync(anchors, { recursive: true, mode: 0o700 });
  const fresh = given === undefined ? !existsSync(file) : readdirSync(anchors).length === 0;
  if (given === undefined && fresh) writeFileSync(file, randomBytes(32).toString('hex'), { mode: 0o600, flag: 'wx' });
  const text = given ?? readFileSync(file, 'utf8').trim();
  if (!KEY_FORM.test(text))
    throw new Error(
      `The trail's key (${given === undefined ? file : 'RAWBITS_TRAIL_KEY'}) is not 64 hex digits. Put the key back that the record was begun with.`,
    );
  return new TrailKeeper(Buffer.from(text, 'hex'), anchors, fresh);
}

/**
 * Throws unless the key is the one that this database's record was begun with: another would go on in a record that
 * then never verifies again. A database from before fingerprints is asked by its last entries.
 */
export async function checkTrailKey(db: Database, keeper: TrailKeeper): Promise<void> {
  const known = async () =>
    (await db.select().from(installationTable).where(eq(installationTable.name, FINGERPRINT)))[0]?.value;
  if ((await known()) === undefined) {
    const last = await db.select().from(trailTable).orderBy(desc(trailTable.at)).limit(LOOKED_AT);
    if (last.length > 0 && !last.some((entry) => isOurs(keeper, entry))) throw anotherKey();
    await db.insert(installationTable).ignore().values({ name: FINGERPRINT, value: keeper.fingerprint });
  }
  if ((await known()) !== keeper.fingerprint) throw anotherKey();
}

/** Whether an entry was written with this key, as entries are now or as they were. */
const isOurs = (keeper: TrailKeeper, entry: typeof trailTable.$inferSelect): boolean =>
  keeper.macOf(entry) === entry.mac || keeper.formerHashOf({ ...entry, seq: entry.seq ?? 0 }) === entry.hash;

const anotherKey = () =>
  new Error(
    'This server has another trail key than the database was begun with, and would ruin its record. Give it the same trail.key (in the state folder) or RAWBITS_TRAIL_KEY.',
  );
