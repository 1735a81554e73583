/**
 * Sixteen writers at one site: changes with their entries in the trail and their announcements, beside bare durable
 * transactions that insert the same rows; in turn, on one database.
 *
 *     node bin/lib/build.mjs bench-trail && node dist/bench-trail.mjs
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { sql } from 'drizzle-orm';
import { createPool, type Pool } from 'mysql2/promise';
import { pino } from 'pino';
import { startMariaDb } from '../../bin/lib/mariadb.ts';
import { connect, migrate, newId, orderedId } from '../../server/src/platform/database/index.ts';
import type { TrailApp } from '../../server/src/platform/trail/app.ts';
import { change, openChain } from '../../server/src/platform/trail/change.ts';
import { openTrail } from '../../server/src/platform/trail/key.ts';
import { Sealer } from '../../server/src/platform/trail/seal.ts';
import { verifyChain } from '../../server/src/platform/trail/verify.ts';

const WRITERS = 16;
const ROUNDS = 5;
const ROUND_MS = 3000;
const SITE = 'benchsite';
const WHO = { id: 'somebody', name: 'Somebody' };

/** Writes with `writers` at once for a while; gives how many were written a second. */
async function rate(writers: number, write: () => Promise<unknown>): Promise<number> {
  const began = performance.now();
  let written = 0;
  await Promise.all(
    Array.from({ length: writers }, async () => {
      while (performance.now() - began < ROUND_MS) {
        await write();
        written++;
      }
    }),
  );
  return (written * 1000) / (performance.now() - began);
}

const ours = (app: TrailApp) => () =>
  change(app, WHO, SITE, async (tx, record) => {
    const id = newId();
    await tx.execute(
      sql`INSERT INTO cardholders (id, site_id, name, department) VALUES (${id}, ${SITE}, ${`Holder ${id}`}, '')`,
    );
    record.trail({ action: 'cardholder added', subject: `cardholder ${id}`, after: { name: `Holder ${id}` } });
    record.announce('cards', { id });
  });

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

const median = (all: number[]): number => [...all].sort((a, b) => a - b)[all.length >> 1]!;

async function run(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'rawbits-bench-'));
  const database = await startMariaDb(join(folder, 'mariadb'));
  const connection = connect(database.url, { connections: WRITERS + 2 });
  const pool = createPool({ uri: database.url, connectionLimit: WRITERS });
  const log = pino({ level: 'silent' });
  const base = { db: connection.db, log, trail: openTrail(join(folder, 'state'), undefined) };
  const sealer = new Sealer(
    () => base,
    () => {},
  );
  const app: TrailApp = { ...base, sealer };
  await migrate(connection.nodes, join(import.meta.dirname, '../server/migrations'));
  await openChain(connection.db, SITE);
  const rates: Record<string, number[]> = { 'ours, 1': [], 'ours, 16': [], 'bare, 1': [], 'bare, 16': [] };
  await rate(WRITERS, ours(app));
  for (let round = 0; round < ROUNDS; round++) {
    rates['ours, 16']!.push(await rate(WRITERS, ours(app)));
    rates['bare, 16']!.push(await rate(WRITERS, bare(pool)));
    rates['ours, 1']!.push(await rate(1, ours(app)));
    rates['bare, 1']!.push(await rate(1, bare(pool)));
  }
  for (const [name, all] of Object.entries(rates)) console.log(`${name.padEnd(10)} ${median(all).toFixed(0)} a second`);
  const ratio = median(rates['bare, 16']!) / median(rates['ours, 16']!);
  console.log(`16 writers: ${ratio.toFixed(2)} times as long as bare (aim 2)`);
  console.log(`16 writers beside one: ${(median(rates['ours, 16']!) / median(rates['ours, 1']!)).toFixed(1)} times`);
  console.log((await verifyChain(app, SITE)).verification.message);
  await sealer.close();
  await pool.end();
  await connection.close();
  await database.stop();
  rmSync(folder, { recursive: true, force: true });
}

await run();
