/**
 * Restoring a backup into an empty place: the database, then the files beside it. Nothing half-restored stays: what was
 * made is taken away again when anything goes wrong.
 */
import { createHash, type Hash } from 'node:crypto';
import {
  appendFileSync,
  closeSync,
  cpSync,
  createReadStream,
  existsSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readdirSync,
  readSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join, normalize } from 'node:path';
import { pipeline } from 'node:stream';
import { StringDecoder } from 'node:string_decoder';
import { createGunzip } from 'node:zlib';
import { type Connection, createConnection, type RowDataPacket } from 'mysql2/promise';
import { connect, migrate } from '../../../server/src/platform/database/index.ts';
import { headerEnd, opening, Told } from './archive.ts';
import { AFTER, BACKUP, type BackupLine, BEFORE, type Value } from './backup.ts';

const HOURS = 3_600_000;

/** The lines of a backup, in their order; throws where the passphrase is wrong or anything was changed or is missing. */
export async function* linesOf(file: string, passphrase: string): AsyncGenerator<BackupLine> {
  if (!existsSync(file)) throw new Told(`There is no ${file}.`);
  const start = Buffer.alloc(1000);
  const handle = openSync(file, 'r');
  const read = readSync(handle, start);
  closeSync(handle);
  const at = headerEnd(start.subarray(0, read));
  const open = await opening(passphrase, start.subarray(0, at));
  // An error on the way comes out at its end.
  const text = pipeline(createReadStream(file, { start: at }), open, createGunzip(), () => {});
  let ended = false;
  try {
    for await (const line of textLines(text)) {
      const value = JSON.parse(line) as BackupLine;
      ended = 'end' in value;
      yield value;
    }
  } catch (error) {
    throw /^Z_|ERR_STREAM/.test((error as NodeJS.ErrnoException).code ?? '')
      ? new Told('The archive is damaged: what it holds cannot be unpacked.')
      : error;
  }
  if (!ended) throw new Told('The archive ends too early.');
}

async function* textLines(bytes: AsyncIterable<Buffer>): AsyncGenerator<string> {
  const decoder = new StringDecoder('utf8');
  let rest = '';
  for await (const chunk of bytes) {
    const lines = (rest + decoder.write(chunk)).split('\n');
    rest = lines.pop()!;
    yield* lines;
  }
  if (rest !== '') yield rest;
}

export interface Restored {
  at: string;
  version: string;
  rows: Record<string, number>;
  files: number;
}

export interface Place {
  /** An empty database. */
  url: string;
  /** A folder in which there is neither state nor a rig. */
  data: string;
  migrationsFolder: string;
  passphrase: string;
  /** Whether the database holds what a restore that was broken off left, and nothing else. */
  hasLeftOver?: boolean;
  /** Breaks it off. */
  signal?: AbortSignal;
}

/** Puts everything of a backup into an empty place; throws, and leaves the place as it was, when that cannot be. */
export async function restore(file: string, place: Place): Promise<Restored> {
  for (const name of [...BEFORE, ...AFTER])
    if (existsSync(join(place.data, name)))
      throw new Told(`${join(place.data, name)} is there already. Restore into an empty folder.`);
  const connection = await createConnection({ uri: place.url, timezone: 'Z', charset: 'utf8mb4' });
  try {
    const [tables] = await connection.query<RowDataPacket[]>('SHOW TABLES');
    if (tables.length > 0 && place.hasLeftOver) await dropTables(connection);
    else if (tables.length > 0) throw new Told('The database is not empty. Restore into an empty one.');
    await connection.query("SET SESSION time_zone = '+00:00', foreign_key_checks = 0");
    try {
      return await new Restoring(place, connection).run(file);
    } catch (error) {
      await clearAway(connection, place.data);
      throw error;
    }
  } finally {
    connection.destroy();
  }
}

async function clearAway(connection: Connection, data: string): Promise<void> {
  clearFiles(data);
  await dropTables(connection);
}

/** Takes away what a restore puts beside the database. */
export function clearFiles(data: string): void {
  for (const name of [...BEFORE, ...AFTER]) rmSync(join(data, name), { recursive: true, force: true });
}

async function dropTables(connection: Connection): Promise<void> {
  const [tables] = await connection.query<RowDataPacket[]>('SHOW TABLES');
  for (const row of tables) await connection.query(`DROP TABLE \`${Object.values(row)[0]}\``);
}

class Restoring {
  private readonly rows: Record<string, number> = {};
  private readonly files: Record<string, string> = {};
  private table: { name: string; columns: string } | undefined;
  private file: { name: string; path: string; hash: Hash } | undefined;
  private head: { at: string; version: string } | undefined;

  constructor(
    private readonly place: Place,
    private readonly connection: Connection,
  ) {}

  async run(file: string): Promise<Restored> {
    await this.connection.query('BEGIN');
    for await (const line of linesOf(file, this.place.passphrase)) {
      this.place.signal?.throwIfAborted();
      await this.take(line);
    }
    await this.connection.query('COMMIT');
    return { ...this.head!, rows: this.rows, files: Object.keys(this.files).length };
  }

  private async take(line: BackupLine): Promise<void> {
    if ('schema' in line) await this.begin(line);
    else if (!this.head) throw new Told('This archive holds no backup of Raw Bits.');
    else if ('table' in line) this.beginTable(line);
    else if ('rows' in line) await this.insert(line.rows);
    else if ('file' in line) this.beginFile(line.file);
    else if ('part' in line) this.addPart(line.part);
    else this.check(line.end);
  }

  /** Makes the tables as they were when the backup was made; the first start brings them up to date. */
  private async begin({ schema, version, at, migrations }: BackupLine & { schema: string }): Promise<void> {
    if (schema !== BACKUP) throw new Told('This backup is of a version that this one does not know.');
    this.head = { version, at };
    const known = readdirSync(this.place.migrationsFolder).filter((name) => name.endsWith('.sql'));
    const names = [...new Set(migrations.map(({ name }) => name))];
    const unknown = names.find((name) => !known.includes(name));
    if (unknown !== undefined)
      throw new Told(
        `The backup is of a later version (${version}) than this one: it has ${unknown}. Bring this one up to date.`,
      );
    const folder = mkdtempSync(join(tmpdir(), 'rawbits-migrations-'));
    try {
      for (const name of names) cpSync(join(this.place.migrationsFolder, name), join(folder, name));
      const { nodes, close } = connect(this.place.url, { statementMs: HOURS });
      await migrate(nodes, folder).finally(close);
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  }

  private beginTable({ table, columns }: { table: string; columns: string[] }): void {
    this.endFile();
    const quoted = (name: string) => {
      if (!/^[a-z_0-9]{1,64}$/i.test(name)) throw new Told('The backup names something that is no table or column.');
      return `\`${name}\``;
    };
    this.table = { name: quoted(table), columns: columns.map(quoted).join(', ') };
    this.rows[table] = 0;
  }

  private async insert(rows: Value[][]): Promise<void> {
    const { name, columns } = this.table!;
    await this.connection.query(`INSERT INTO ${name} (${columns}) VALUES ?`, [rows]);
    this.rows[name.slice(1, -1)]! += rows.length;
  }

  private beginFile(name: string): void {
    this.endFile();
    const path = join(this.place.data, name);
    const inside = [...BEFORE, ...AFTER].some((part) => name === part || name.startsWith(`${part}/`));
    if (!inside || normalize(name) !== name) throw new Told('The backup names a file that is none of Raw Bits.');
    mkdirSync(dirname(path), { recursive: true, mode: 0o700 });
    writeFileSync(path, '', { flag: 'wx', mode: 0o600 });
    this.file = { name, path, hash: createHash('sha256') };
  }

  private addPart(part: string): void {
    const bytes = Buffer.from(part, 'base64');
    this.file!.hash.update(bytes);
    appendFileSync(this.file!.path, bytes);
  }

  private endFile(): void {
    if (this.file) this.files[this.file.name] = this.file.hash.digest('hex');
    this.file = undefined;
  }

  private check(end: { rows: Record<string, number>; files: Record<string, string> }): void {
    this.endFile();
    const sorted = (counts: Record<string, unknown>) => JSON.stringify(Object.entries(counts).sort());
    if (sorted(end.rows) !== sorted(this.rows) || sorted(end.files) !== sorted(this.files))
      throw new Told('What was restored is not what the backup says it holds.');
  }
}
