/**
 * A backup: the database as of one moment, the trail's key and anchors, the rig's memory and its token, as JSON lines,
 * compressed and sealed. The anchors are read first, so that none names an entry that the backup does not have, the rig
 * last. Sessions, requests that were carried out and calls under way are left out.
 */
import { createHash } from 'node:crypto';
import {
  closeSync,
  createWriteStream,
  existsSync,
  fsyncSync,
  openSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
} from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createGzip } from 'node:zlib';
import { createConnection, type RowDataPacket } from 'mysql2/promise';
import { sealing, Told } from './archive.ts';

export const BACKUP = 'rawbits/backup@1';
/** What the database forgets by itself. */
const LEFT_OUT = new Set([
  'sessions',
  'sign_in_failures',
  'requests',
  'device_calls',
  'migrations_lock',
  'migrations_by',
]);
const ROWS_A_LINE = 200;
const PART_BYTES = 1_000_000;
/** What stands beside the database, in the order in which it is read before and after it. */
export const BEFORE = ['state'];
export const AFTER = ['rig', 'rig.token'];

export type Value = string | number | null;
export type BackupLine =
  | { schema: string; version: string; at: string; migrations: { name: string; statement: number }[] }
  | { table: string; columns: string[] }
  | { rows: Value[][] }
  | { file: string }
  | { part: string }
  | { end: { rows: Record<string, number>; files: Record<string, string> } };

interface Counts {
  rows: Record<string, number>;
  files: Record<string, string>;
}

/** Every file below a name of the data folder, by its path from there. */
function* filesIn(data: string, name: string): Generator<string> {
  const path = join(data, name);
  if (!existsSync(path)) return;
  if (statSync(path).isFile()) yield name;
  else
    for (const entry of readdirSync(path).sort())
      if (!entry.endsWith('.draft')) yield* filesIn(data, `${name}/${entry}`);
}

function* fileLines(data: string, names: readonly string[], counts: Counts): Generator<BackupLine> {
  for (const name of names)
    for (const file of filesIn(data, name)) {
      const bytes = readFileSync(join(data, file));
      counts.files[file] = createHash('sha256').update(bytes).digest('hex');
      yield { file };
      for (let from = 0; from < bytes.length; from += PART_BYTES)
        yield { part: bytes.subarray(from, from + PART_BYTES).toString('base64') };
    }
}

type Query = (sql: string, values?: unknown[]) => Promise<RowDataPacket[]>;

/** The columns that are written, not worked out by the database. */
async function columnsOf(query: Query, table: string): Promise<string[]> {
  const rows = await query(
    `SELECT column_name AS name FROM information_schema.columns
     WHERE table_schema = DATABASE() AND table_name = ? AND COALESCE(generation_expression, '') = '' ORDER BY ordinal_position`,
    [table],
  );
  return rows.map(({ name }) => name as string);
}

async function* databaseLines(url: string, counts: Counts): AsyncGenerator<BackupLine> {
  const connection = await createConnection({
    uri: url,
    timezone: 'Z',
    dateStrings: true,
    supportBigNumbers: true,
    bigNumberStrings: true,
    charset: 'utf8mb4',
  });
  const query: Query = async (sql, values) => (await connection.query<RowDataPacket[]>(sql, values))[0];
  try {
    await query("SET SESSION time_zone = '+00:00'");
    await query('SET TRANSACTION ISOLATION LEVEL REPEATABLE READ');
    await query('START TRANSACTION WITH CONSISTENT SNAPSHOT');
    const tables = (await query("SHOW FULL TABLES WHERE Table_type = 'BASE TABLE'"))
      .map((row) => String(Object.values(row)[0]))
      .filter((table) => !LEFT_OUT.has(table) && table !== 'migrations_done');
    for (const table of tables) {
      const columns = await columnsOf(query, table);
      yield { table, columns };
      counts.rows[table] = 0;
      const names = columns.map((column) => `\`${column}\``).join(', ');
      const stream = connection.connection
        .query({ sql: `SELECT ${names} FROM \`${table}\``, rowsAsArray: true })
        .stream();
      let rows: Value[][] = [];
      for await (const row of stream as AsyncIterable<Value[]>) {
        rows.push(row);
        if (rows.length < ROWS_A_LINE) continue;
        counts.rows[table] += rows.length;
        yield { rows };
        rows = [];
      }
      counts.rows[table] += rows.length;
      if (rows.length > 0) yield { rows };
    }
  } finally {
    connection.destroy();
  }
}

async function migrationsOf(url: string): Promise<{ name: string; statement: number }[]> {
  const connection = await createConnection(url);
  try {
    const [rows] = await connection.query<RowDataPacket[]>(
      'SELECT name, statement FROM migrations_done ORDER BY name, statement',
    );
    return rows.map(({ name, statement }) => ({ name, statement }));
  } catch {
    throw new Told('This database is none of Raw Bits.');
  } finally {
    connection.destroy();
  }
}

async function* allLines(url: string, data: string, version: string, counts: Counts): AsyncGenerator<string> {
  const line = (value: BackupLine) => `${JSON.stringify(value)}\n`;
  yield line({ schema: BACKUP, version, at: new Date().toISOString(), migrations: await migrationsOf(url) });
  for (const one of fileLines(data, BEFORE, counts)) yield line(one);
  for await (const one of databaseLines(url, counts)) yield line(one);
  for (const one of fileLines(data, AFTER, counts)) yield line(one);
  yield line({ end: counts });
}

export interface Backup {
  url: string;
  /** The data folder: state and rig stand there. */
  data: string;
  version: string;
  passphrase: string;
  /** Breaks it off. */
  signal?: AbortSignal;
}

/** Takes drafts of this backup away whose process was killed. */
function clearDrafts(file: string): void {
  const draft = `${basename(file)}.draft`;
  for (const name of readdirSync(dirname(file))) {
    if (name !== draft && !name.startsWith(`${draft}.`)) continue;
    const pid = Number(name.slice(draft.length + 1));
    if (pid === process.pid || !existsSync(`/proc/${pid || 'none'}`))
      rmSync(join(dirname(file), name), { force: true });
  }
}

/** Writes a backup, whole or not at all; gives what is in it. Memory does not grow with what there is. */
export async function backUp(file: string, { url, data, version, passphrase, signal }: Backup): Promise<Counts> {
  if (existsSync(file)) throw new Told(`${file} is there already. Give another name, or move it away.`);
  if (!existsSync(dirname(file))) throw new Told(`There is no folder ${dirname(file)}. Make it first.`);
  clearDrafts(file);
  const draft = `${file}.draft.${process.pid}`;
  const counts: Counts = { rows: {}, files: {} };
  try {
    await pipeline(
      Readable.from(allLines(url, data, version, counts)),
      createGzip(),
      await sealing(passphrase),
      createWriteStream(draft, { flags: 'wx', mode: 0o600 }),
      { signal },
    );
    const handle = openSync(draft, 'r+');
    fsyncSync(handle);
    closeSync(handle);
    renameSync(draft, file);
  } catch (error) {
    rmSync(draft, { force: true });
    throw error;
  }
  return counts;
}
