/**
 * Applies the migrations that drizzle-kit wrote. Safe when several servers start at once: a row of a table is the lock,
 * because advisory locks hold on one node of a cluster only, while a primary key is certified by all. The holder says
 * every few seconds that it lives; a lock not heard of for a while is taken over. DDL commits by itself, so progress
 * is kept statement by statement, and a statement that a dead holder had already done is recognised as done.
 */
import { randomBytes } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import packageJson from '../../../package.json' with { type: 'json' };
import { errorNumber } from './errors.ts';

/** A pool, as far as migrations need one. */
interface Pool {
  query(sql: string, values?: unknown[]): Promise<[unknown, ...unknown[]]>;
}

const HEARTBEAT_MS = 3000;
const STALE_SECONDS = 20;
/** Whoever waits for longer is told for what. */
const SAY_AFTER_MS = 2000;
/** Table, column or key exists already; column or key to drop is gone already; no such table to drop. */
const ALREADY_DONE = new Set([1050, 1060, 1061, 1091, 1051]);

const isNoTable = (error: unknown): boolean => errorNumber(error) === 1146;

/** The database has migrations that this version does not have: what it would do with newer tables nobody knows. */
export class LaterDatabase extends Error {
  override readonly name = 'LaterDatabase';
}

/** Applies what is missing; returns the names of the migrations that this call applied. Throws `LaterDatabase` before it changes anything. */
export async function migrate(
  pool: Pool,
  folder: string,
  { version = packageJson.version, say = () => {} }: { version?: string; say?: (message: string) => void } = {},
): Promise<string[]> {
  await checkKnown(pool, namesIn(folder), version);
  await pool.query(
    'CREATE TABLE IF NOT EXISTS migrations_by (name varchar(120) NOT NULL PRIMARY KEY, version varchar(40) NOT NULL) ENGINE=InnoDB',
  );
  await pool.query(
    'CREATE TABLE IF NOT EXISTS migrations_done (name varchar(120) NOT NULL, statement int NOT NULL, PRIMARY KEY (name, statement)) ENGINE=InnoDB',
  );
  await pool.query(
    'CREATE TABLE IF NOT EXISTS migrations_lock (id int NOT NULL PRIMARY KEY, holder varchar(40) NOT NULL, heard_at datetime(3) NOT NULL) ENGINE=InnoDB',
  );
  const holder = randomBytes(12).toString('hex');
  await takeLock(pool, holder, say);
  const heart = setInterval(() => {
    pool.query('UPDATE migrations_lock SET heard_at = NOW(3) WHERE holder = ?', [holder]).catch(() => {});
  }, HEARTBEAT_MS);
  try {
    return await applyMissing(pool, folder, version);
  } finally {
    clearInterval(heart);
    await pool.query('DELETE FROM migrations_lock WHERE holder = ?', [holder]);
  }
}

async function takeLock(pool: Pool, holder: string, say: (message: string) => void): Promise<void> {
  const began = performance.now();
  let said = false;
  for (;;) {
    try {
      // One that lies ahead was left by a server whose clock, or whose database's, ran ahead.
      await pool.query(
        'DELETE FROM migrations_lock WHERE heard_at < NOW(3) - INTERVAL ? SECOND OR heard_at > NOW(3) + INTERVAL 60 SECOND',
        [STALE_SECONDS],
      );
      await pool.query('INSERT INTO migrations_lock VALUES (1, ?, NOW(3))', [holder]);
      return;
    } catch (error) {
      if (![1062, 1213, 1205].includes(errorNumber(error) ?? 0)) throw error;
      if (!said && performance.now() - began > SAY_AFTER_MS) {
        said = true;
        say('Another server brings the database up to date; this one waits for it.');
      }
      await new Promise((resolve) => setTimeout(resolve, 150));
    }
  }
}

const namesIn = (folder: string): string[] =>
  readdirSync(folder)
    .filter((name) => name.endsWith('.sql'))
    .sort();

/** Rows of a table that an empty database, or one of an older version, does not have. */
async function rowsOf<T>(pool: Pool, query: string): Promise<T[]> {
  try {
    return (await pool.query(query))[0] as T[];
  } catch (error) {
    if (isNoTable(error)) return [];
    throw error;
  }
}

async function checkKnown(pool: Pool, known: readonly string[], version: string): Promise<void> {
  const done = await rowsOf<{ name: string }>(pool, 'SELECT DISTINCT name FROM migrations_done ORDER BY name');
  const unknown = done.map(({ name }) => name).filter((name) => !known.includes(name));
  if (unknown.length === 0) return;
  const by = await rowsOf<{ name: string; version: string }>(pool, 'SELECT name, version FROM migrations_by');
  const later = by.find(({ name }) => name === unknown.at(-1))?.version;
  throw new LaterDatabase(
    `This is Raw Bits ${version}, with the migrations up to ${known.at(-1) ?? 'none'}. The database was used by a later one${
      later === undefined ? '' : `, ${later}`
    }: it has ${unknown.join(', ')}. Nothing was changed. Start the later version, or restore a backup made with this one.`,
  );
}

async function applyMissing(pool: Pool, folder: string, version: string): Promise<string[]> {
  const [rows] = await pool.query('SELECT name, statement FROM migrations_done');
  const done = new Set((rows as { name: string; statement: number }[]).map((row) => `${row.name} ${row.statement}`));
  const applied: string[] = [];
  for (const file of namesIn(folder)) {
    const statements = readFileSync(join(folder, file), 'utf8').split('--> statement-breakpoint');
    for (const [i, statement] of statements.entries()) {
      if (done.has(`${file} ${i}`)) continue;
      try {
        await pool.query(statement);
      } catch (error) {
        if (!ALREADY_DONE.has(errorNumber(error) ?? 0)) throw error;
      }
      await pool.query('INSERT IGNORE INTO migrations_by VALUES (?, ?)', [file, version]);
      await pool.query('INSERT IGNORE INTO migrations_done VALUES (?, ?)', [file, i]);
      if (applied.at(-1) !== file) applied.push(file);
    }
  }
  return applied;
}
