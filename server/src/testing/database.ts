/** Gives the server's tests a real MariaDB of their own, made anew for the run and thrown away after it. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startMariaDb } from '../../../bin/lib/mariadb.ts';

export default async function setup(): Promise<() => Promise<void>> {
  const folder = mkdtempSync(join(tmpdir(), 'rawbits-test-'));
  const database = await startMariaDb(folder);
  process.env.RAWBITS_TEST_DATABASE_URL = database.url;
  return async () => {
    await database.stop();
    rmSync(folder, { recursive: true, force: true });
  };
}
