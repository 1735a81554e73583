/**
 * Sixteen writers at one site: changes with their entries in the trail and their announcements, beside bare durable
 * transactions that insert the same rows; in turn, on one database.
 *
 *     node bin/lib/build.mjs bench-trail && node dist/bench-trail.mjs
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createPool, type Pool } from 'mysql2/promise';
import { startMariaDb } from '../../bin/lib/mariadb.ts';
import { newId, orderedId } from '../../server/src/platform/database/index.ts';
import { openChain } from '../../server/src/platform/trail/change.ts';
import { verifyChain } from '../../server/src/platform/trail/verify.ts';
import { addHolder, median, openWriter, rate, SITE, WHO } from './writers.ts';

const WRITERS = 16;
const ROUNDS = 5;
const ROUND_MS = 3000;

/** The same rows, the trail's hashes as long as they are, with nothing computed and nothing read. */
const bare = (pool: Pool) => async () => {
  const connection = await pool.getConnection();
  const id = newId();
  const hash = 'f'.repeat(64);
  await connection.query('BEGIN');
  await connection.query('INSERT INTO cardholders (id, site_id, name, department) VALUES (?, ?, ?, ?)', [
    id,
    SITE,
    `Holder ${id}`,
    '',
  ]);
  await connection.query(
    'INSERT INTO trail (chain, name, at, operator_id, operator, action, subject, `before`, `after`, mac, previous, hash) VALUES (?, ?, NOW(3), ?, ?, ?, ?, ?, ?, ?, ?, ?)',
    [
      'bare',
      orderedId(),
      WHO.id,
      WHO.name,
      'cardholder added',
      `cardholder ${id}`,
      'null',
      `{"name":"Holder ${id}"}`,
      hash,
      hash,
      hash,
    ],
  );
  await connection.query(
    'INSERT INTO feed (site_id, name, at, kind, data) VALUES (?, ?, NOW(3), ?, ?), (?, ?, NOW(3), ?, ?)',
    ['bare', orderedId(), 'cardholders', `{"id":"${id}"}`, 'bare', orderedId(), 'trail', '{}'],
  );
  await connection.query('COMMIT');
  connection.release();
};

async function run(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'rawbits-bench-'));
  const database = await startMariaDb(join(folder, 'mariadb'));
  const { app, close } = await openWriter(database.url, join(folder, 'state'), WRITERS + 2);
  const pool = createPool({ uri: database.url, connectionLimit: WRITERS });
  await openChain(app.db, SITE);
  const ours = () => addHolder(app);
  const rates: Record<string, number[]> = { 'ours, 1': [], 'ours, 16': [], 'bare, 1': [], 'bare, 16': [] };
  await rate(WRITERS, ROUND_MS, ours);
  for (let round = 0; round < ROUNDS; round++) {
    rates['ours, 16']!.push(await rate(WRITERS, ROUND_MS, ours));
    rates['bare, 16']!.push(await rate(WRITERS, ROUND_MS, bare(pool)));
    rates['ours, 1']!.push(await rate(1, ROUND_MS, ours));
    rates['bare, 1']!.push(await rate(1, ROUND_MS, bare(pool)));
  }
  for (const [name, all] of Object.entries(rates)) console.log(`${name.padEnd(10)} ${median(all).toFixed(0)} a second`);
  const ratio = median(rates['bare, 16']!) / median(rates['ours, 16']!);
  console.log(`16 writers: ${ratio.toFixed(2)} times as long as bare (aim 2)`);
  console.log(`16 writers beside one: ${(median(rates['ours, 16']!) / median(rates['ours, 1']!)).toFixed(1)} times`);
  console.log((await verifyChain(app, SITE)).verification.message);
  await pool.end();
  await close();
  await database.stop();
  rmSync(folder, { recursive: true, force: true });
}

await run();
