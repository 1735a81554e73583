/** Migrations: several servers at once on an empty database, and after a holder that died in the middle. */
import { copyFileSync, mkdtempSync, readdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createPool, type Pool, type RowDataPacket } from 'mysql2/promise';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { newDatabase } from '../../testing/harness.ts';
import { migrationsFolder } from '../../testing/template.ts';
import { migrate } from './migrate.ts';

describe('migrations', () => {
  let url: string;
  let pools: Pool[];
  beforeEach(async () => {
    url = await newDatabase({ migrated: false });
    pools = Array.from({ length: 4 }, () => createPool(url));
  });
  afterEach(() => Promise.all(pools.map((pool) => pool.end())));
  const tablesIn = async (pool: Pool) => (await pool.query<RowDataPacket[]>('SHOW TABLES'))[0].length;

  /** The migrations that there were before one. */
  const migrationsBefore = (first: string): string => {
    const folder = mkdtempSync(join(tmpdir(), 'rawbits-migrations-'));
    for (const name of readdirSync(migrationsFolder).filter((file) => file.endsWith('.sql') && file < first))
      copyFileSync(join(migrationsFolder, name), join(folder, name));
    return folder;
  };

  it('each reader at a controller gets a door of its own, once, whoever died in between', async () => {
    const [pool] = pools as [Pool];
    await migrate(pool, migrationsBefore('0020'));
    const readers = [
      ['r1', 's1', 'Main entrance', 'door', 'main', 'c1'],
      ['r2', 's1', 'Desk', 'enrolment', 'desk', null],
    ];
    await pool.query('INSERT INTO readers (id, site_id, name, kind, device, controller_id) VALUES ?', [readers]);
    await migrate(pool, migrationsFolder);
    await pool.query("DELETE FROM migrations_done WHERE name = '0020_access.sql'");
    expect(await migrate(pool, migrationsFolder)).toEqual(['0020_access.sql']);
    const [doors] = await pool.query<RowDataPacket[]>('SELECT id, controller_id, name, by_groups FROM doors');
    expect(doors).toEqual([{ id: 'r1', controller_id: 'c1', name: 'Main entrance', by_groups: 0 }]);
    const [at] = await pool.query<RowDataPacket[]>('SELECT id, door_id, way FROM readers ORDER BY id');
    expect(at).toEqual([
      { id: 'r1', door_id: 'r1', way: 'in' },
      { id: 'r2', door_id: null, way: 'in' },
    ]);
  });

  it('four servers at once: one applies them, all go on', async () => {
    const applied = await Promise.all(pools.map((pool) => migrate(pool, migrationsFolder)));
    expect(applied.filter((names) => names.length > 0).length).toBe(1);
    expect(await migrate(pools[0]!, migrationsFolder)).toEqual([]);
    const [locks] = await pools[0]!.query<RowDataPacket[]>('SELECT * FROM migrations_lock');
    expect(locks).toEqual([]);
  });

  it('a database with a migration that this version does not know is refused, with both versions, and left as it is', async () => {
    const [pool] = pools as [Pool];
    const later = migrationsBefore('9999');
    writeFileSync(join(later, '9998_later.sql'), 'CREATE TABLE later (id int)');
    await migrate(pool, later, { version: '7.8.9' });
    const known = readdirSync(migrationsFolder)
      .filter((name) => name.endsWith('.sql'))
      .sort();
    await expect(migrate(pool, migrationsFolder, { version: '1.2.3' })).rejects.toThrow(
      `This is Raw Bits 1.2.3, with the migrations up to ${known.at(-1)}. The database was used by a later one, 7.8.9: it has 9998_later.sql.`,
    );
    await pool.query('DROP TABLE migrations_by');
    const tables = await tablesIn(pool);
    await expect(migrate(pool, migrationsFolder)).rejects.toThrow('was used by a later one: it has 9998_later.sql.');
    expect(await tablesIn(pool)).toBe(tables);
  });

  it('a holder that died after a statement it had not noted does not stop the next', async () => {
    const [pool] = pools as [Pool];
    await migrate(pool, migrationsFolder);
    const all = await tablesIn(pool);
    await pool.query("DELETE FROM migrations_done WHERE name IN ('0009_sealed.sql', '0011_jobs_only.sql')");
    await pool.query("INSERT INTO migrations_lock VALUES (1, 'dead', NOW(3) - INTERVAL 60 SECOND)");
    expect(await migrate(pool, migrationsFolder)).toEqual(['0009_sealed.sql', '0011_jobs_only.sql']);
    expect(await tablesIn(pool)).toBe(all);
  });

  it('the specimens of a case become rows, in their order and as they were', async () => {
    const [pool] = pools as [Pool];
    await migrate(pool, migrationsBefore('0017'));
    const specimens = [
      { bits: '0101', printed: '7' },
      { bits: '0110', setAside: true },
      { bits: '1', printed: 'é “7”' },
    ];
    const row = ['c1', 's1', 'Box', JSON.stringify(specimens), '{}', 'Kari'];
    await pool.query(
      'INSERT INTO cases (id, site_id, name, specimens, questions, created_by, created_at, changed_at) VALUES (?, ?, ?, ?, ?, ?, NOW(3), NOW(3))',
      row,
    );
    await migrate(pool, migrationsFolder);
    const [rows] = await pool.query<RowDataPacket[]>('SELECT * FROM case_specimens ORDER BY position');
    expect(rows.map(({ position, site_id, specimen }) => [position, site_id, JSON.parse(specimen)])).toEqual(
      specimens.map((specimen, i) => [i, 's1', specimen]),
    );
    const [counts] = await pool.query<RowDataPacket[]>('SELECT specimen_count FROM cases');
    expect(counts).toEqual([{ specimen_count: 3 }]);
  });
});
