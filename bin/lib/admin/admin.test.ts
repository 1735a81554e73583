/** Backups: written, restored into an empty place, rehearsed; what was changed, cut or meant for elsewhere is refused. */
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createPool, type RowDataPacket } from 'mysql2/promise';
import { pino } from 'pino';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connect, migrate } from '../../../server/src/platform/database/index.ts';
import { change, openChain } from '../../../server/src/platform/trail/change.ts';
import { openTrail } from '../../../server/src/platform/trail/key.ts';
import { Sealer } from '../../../server/src/platform/trail/seal.ts';
import { type MariaDb, startMariaDb } from '../mariadb.ts';
import { backUp } from './backup.ts';
import { linesOf, restore } from './restore.ts';
import { rehearse } from './verify.ts';

const migrationsFolder = join(import.meta.dirname, '../../../server/migrations');
const passphrase = 'a passphrase for the safe';

describe('a backup', () => {
  let folder: string;
  let data: string;
  let database: MariaDb;
  let file: string;
  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'rawbits-admin-'));
    data = join(folder, 'data');
    file = join(folder, 'station.backup');
    database = await startMariaDb(join(folder, 'mariadb'));
    const { db, nodes, close } = connect(database.url);
    await migrate(nodes, migrationsFolder);
    const base = { db, trail: openTrail(join(data, 'state'), undefined), log: pino({ level: 'silent' }) };
    const sealer = new Sealer(
      () => base,
      () => {},
    );
    for (const chain of ['house', 'station']) await openChain(db, chain);
    for (let i = 0; i < 300; i++)
      await change({ ...base, sealer }, { id: 'o', name: 'Sunniva Dahl' }, 'station', async (_tx, record) => {
        record.trail({
          action: 'cardholder added',
          subject: `cardholder ${i}`,
          after: { name: `Ærlig 😀 "${i}"\n\t\\` },
        });
      });
    await sealer.close();
    await nodes.query(
      'INSERT INTO sessions (token_hash, operator_id, created_at, used_at, expires_at) VALUES (?, ?, NOW(3), NOW(3), NOW(3))',
      ['secret-session', 'o'],
    );
    await nodes.query(
      "INSERT INTO cards (id, site_id, format_id, facility, number, printed, bits, state, notes, revision, created_at) VALUES ('c', 'station', '37-16-19', '2214', '98765432109876543210', '', NULL, 'active', '', 1, '2026-02-03 04:05:06.789')",
    );
    await close();
    mkdirSync(join(data, 'rig/controllers/main'), { recursive: true });
    writeFileSync(join(data, 'rig/controllers/main/snapshot.jsonl'), Buffer.alloc(2_300_000, 7));
    writeFileSync(join(data, 'rig.token'), 'token-of-the-rig');
    await backUp(file, { url: database.url, data, version: '0.1.0', passphrase });
  });
  afterAll(async () => {
    await database.stop();
    rmSync(folder, { recursive: true, force: true });
  });

  /** An empty place beside the first. */
  async function place(name: string) {
    const pool = createPool(database.url);
    await pool.query(`CREATE DATABASE rawbits_${name} CHARACTER SET utf8mb4`);
    await pool.end();
    const url = new URL(database.url);
    url.pathname = `/rawbits_${name}`;
    return { url: url.href, data: join(folder, name), migrationsFolder, passphrase };
  }
  const rowsOf = async (url: string, sql: string) => {
    const pool = createPool({ uri: url, dateStrings: true, supportBigNumbers: true, bigNumberStrings: true });
    const [rows] = await pool.query<RowDataPacket[]>(sql);
    await pool.end();
    return rows;
  };

  it('is restored into an empty place: every row and every file as it was, no session', async () => {
    const to = await place('whole');
    const { rows, files } = await restore(file, to);
    expect([rows.trail, rows.cards, rows.sessions, files]).toEqual([300, 1, undefined, 5]);
    for (const sql of [
      'SELECT * FROM trail ORDER BY chain, name',
      'SELECT * FROM cards',
      'SELECT * FROM chains ORDER BY id',
    ])
      expect(await rowsOf(to.url, sql)).toEqual(await rowsOf(database.url, sql));
    expect(await rowsOf(to.url, 'SELECT * FROM sessions')).toEqual([]);
    for (const name of ['state/trail.key', 'rig/controllers/main/snapshot.jsonl', 'rig.token'])
      expect(readFileSync(join(to.data, name)).equals(readFileSync(join(data, name)))).toBe(true);
    expect(statSync(join(to.data, 'state/trail.key')).mode & 0o077).toBe(0);
    // What is there is never written over.
    await expect(restore(file, to)).rejects.toThrow('is there already');
    await expect(restore(file, { ...to, data: join(folder, 'elsewhere') })).rejects.toThrow('not empty');
  });

  it('is rehearsed: the record verifies on the side with its own key and anchors', async () => {
    const found = await rehearse(file, passphrase, migrationsFolder);
    expect(found.chains).toContainEqual({
      chain: 'station',
      intact: true,
      message: 'All 300 entries are as they were written.',
    });
    expect(readdirSync(tmpdir()).filter((name) => name.startsWith('rawbits-rehearsal-'))).toEqual([]);
  });

  it('that holds a record which was tampered with says so when it is rehearsed', async () => {
    const pool = createPool(database.url);
    await pool.query("UPDATE trail SET operator = 'x' WHERE chain = 'station' AND seq = 7");
    const tampered = join(folder, 'tampered.backup');
    await backUp(tampered, { url: database.url, data, version: '0.1.0', passphrase });
    const { chains } = await rehearse(tampered, passphrase, migrationsFolder);
    expect(chains.find(({ chain }) => chain === 'station')).toMatchObject({ intact: false });
    await pool.query("UPDATE trail SET operator = 'Sunniva Dahl' WHERE chain = 'station' AND seq = 7");
    await pool.end();
  });

  it('tells nothing without the passphrase', async () => {
    const bytes = readFileSync(file);
    for (const secret of [
      'Sunniva',
      'cardholder',
      'token-of-the-rig',
      readFileSync(join(data, 'state/trail.key'), 'utf8'),
    ])
      expect(bytes.includes(secret)).toBe(false);
    const to = await place('wrong');
    await expect(restore(file, { ...to, passphrase: 'another passphrase' })).rejects.toThrow('passphrase is wrong');
    expect([await rowsOf(to.url, 'SHOW TABLES'), existsSync(join(to.data, 'state'))]).toEqual([[], false]);
  });

  const CHUNK = 64 * 1024 + 16;
  const begin = (bytes: Buffer) => bytes.indexOf(0x0a) + 1;
  it.each<[string, (bytes: Buffer) => Buffer]>([
    ['a bit changed', (b) => b.map((byte, i) => (i === b.length - 40 ? byte ^ 1 : byte)) as Buffer],
    ['its end cut off', (b) => b.subarray(0, b.length - 5)],
    ['its last chunk cut off', (b) => b.subarray(0, begin(b) + Math.floor((b.length - begin(b)) / CHUNK) * CHUNK)],
    ['a chunk left out', (b) => Buffer.concat([b.subarray(0, begin(b)), b.subarray(begin(b) + CHUNK)])],
    [
      'cheaper parameters in its first line',
      (b) => Buffer.from(b.toString('latin1').replace('"passes":3', '"passes":2'), 'latin1'),
    ],
    ['nothing in it', () => Buffer.alloc(0)],
    ['something else in it', () => Buffer.from('{"schema":"rawbits/format@1"}\n')],
  ])('with %s is refused, and nothing half-restored stays', async (name, spoil) => {
    const spoilt = join(folder, 'spoilt.backup');
    // Random bytes do not pack: several chunks.
    const large = join(folder, 'large.backup');
    if (!existsSync(large)) {
      writeFileSync(
        join(data, 'rig/noise'),
        Buffer.from(Array.from({ length: 200_000 }, (_, i) => (i * i * 7919) >> 5)),
      );
      await backUp(large, { url: database.url, data, version: '0.1.0', passphrase });
    }
    writeFileSync(spoilt, spoil(readFileSync(large)));
    const to = await place(`spoilt_${name.replace(/\W/g, '')}`);
    await expect(restore(spoilt, to)).rejects.toThrow(/archive|passphrase/);
    expect([
      await rowsOf(to.url, 'SHOW TABLES'),
      existsSync(join(to.data, 'state')),
      existsSync(join(to.data, 'rig')),
    ]).toEqual([[], false, false]);
  });

  it('of a later version is refused by name; one that is there is not written over', async () => {
    const later = join(folder, 'later.backup');
    const pool = createPool(database.url);
    await pool.query("INSERT INTO migrations_done VALUES ('9999_to_come.sql', 0)");
    await backUp(later, { url: database.url, data, version: '9.0.0', passphrase });
    await pool.query("DELETE FROM migrations_done WHERE name = '9999_to_come.sql'");
    await pool.end();
    await expect(restore(later, await place('later'))).rejects.toThrow('a later version (9.0.0)');
    await expect(backUp(file, { url: database.url, data, version: '0.1.0', passphrase })).rejects.toThrow(
      'is there already',
    );
    for await (const line of linesOf(file, passphrase)) {
      expect(line).toMatchObject({ schema: 'rawbits/backup@1' });
      break;
    }
  });
});
