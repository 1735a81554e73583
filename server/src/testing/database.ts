/** Gives the server's tests a real MariaDB of their own, made anew for the run and thrown away after it. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build } from 'esbuild';
import { createPool } from 'mysql2/promise';
import { startMariaDb } from '../../../bin/lib/mariadb.ts';
import { connect, migrate } from '../platform/database/index.ts';
import { migrationsFolder, TEMPLATE } from './template.ts';

const top = join(import.meta.dirname, '../../..');

/** The workers' program as it is now, in one file: Node does not run TypeScript. */
async function buildWorker(): Promise<string> {
  const outfile = join(top, 'node_modules/.cache/rawbits/test-worker.mjs');
  await build({
    entryPoints: [join(top, 'server/src/platform/workers/main.ts')],
    bundle: true,
    platform: 'node',
    format: 'esm',
    outfile,
    logLevel: 'error',
    banner: { js: "import { createRequire } from 'node:module'; const require = createRequire(import.meta.url);" },
  });
  return outfile;
}

/** A database with every migration carried out, once: those of the tests are copies of it. */
async function makeTemplate(url: string): Promise<void> {
  const made = new URL(url);
  const pool = createPool(url);
  await pool.query(`CREATE DATABASE ${TEMPLATE} CHARACTER SET utf8mb4`);
  await pool.end();
  made.pathname = `/${TEMPLATE}`;
  const connection = connect(made.href);
  await migrate(connection.nodes, migrationsFolder);
  await connection.close();
}

export default async function setup(): Promise<() => Promise<void>> {
  const folder = mkdtempSync(join(tmpdir(), 'rawbits-test-'));
  const database = await startMariaDb(folder);
  process.env.RAWBITS_TEST_DATABASE_URL = database.url;
  await makeTemplate(database.url);
  process.env.RAWBITS_TEST_WORKER = await buildWorker();
  return async () => {
    await database.stop();
    rmSync(folder, { recursive: true, force: true });
  };
}
