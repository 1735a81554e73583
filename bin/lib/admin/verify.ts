/**
 * A rehearsal: a backup is restored into a place of its own, thrown away afterwards, and looked at there: whether its
 * record verifies with its own key and anchors, and what is in it.
 */
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pino } from 'pino';
import { connect, migrate } from '../../../server/src/platform/database/index.ts';
import { checkTrailKey, openTrail } from '../../../server/src/platform/trail/key.ts';
import { Sealer } from '../../../server/src/platform/trail/seal.ts';
import { chainTable } from '../../../server/src/platform/trail/tables.ts';
import { verifyChain } from '../../../server/src/platform/trail/verify.ts';
import { removeDatabase, startMariaDb } from '../mariadb.ts';
import { type Restored, restore } from './restore.ts';

export interface Rehearsed extends Restored {
  /** Of each chain, what verification says. */
  chains: { chain: string; intact: boolean; message: string }[];
}

/** Restores a backup on the side and verifies it there. `trailKey` where it is not in the state folder. */
export async function rehearse(
  file: string,
  passphrase: string,
  migrationsFolder: string,
  trailKey?: string,
  signal?: AbortSignal,
): Promise<Rehearsed> {
  const folder = mkdtempSync(join(tmpdir(), 'rawbits-rehearsal-'));
  const database = await startMariaDb(join(folder, 'mariadb'), { endsWithUs: true });
  try {
    const restored = await restore(file, { url: database.url, data: folder, migrationsFolder, passphrase, signal });
    return { ...restored, chains: await verifyAll(database.url, join(folder, 'state'), migrationsFolder, trailKey) };
  } finally {
    await database.stop();
    removeDatabase(folder);
  }
}

async function verifyAll(url: string, state: string, migrationsFolder: string, trailKey?: string) {
  const { db, nodes, close } = connect(url, { statementMs: 3_600_000 });
  try {
    await migrate(nodes, migrationsFolder);
    const trail = openTrail(state, trailKey);
    await checkTrailKey(db, trail);
    const base = { db, trail, log: pino({ level: 'silent' }) };
    const sealer = new Sealer(
      () => base,
      () => {},
    );
    const found = [];
    for (const { id } of await db.select({ id: chainTable.id }).from(chainTable)) {
      const { verification } = await verifyChain({ ...base, sealer }, id);
      found.push({ chain: id, intact: verification.intact, message: verification.message });
    }
    await sealer.close();
    return found;
  } finally {
    await close();
  }
}
