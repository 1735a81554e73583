/** Migrations: several servers at once on an empty database, and after a holder that died in the middle. */
import { copyFileSync, mkdtempSync, readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createPool, type Pool, type RowDataPacket } from 'mysql2/promise';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { migrationsFolder, newDatabase } from '../../testing/harness.ts';
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

  it('four servers at once: one applies them, all go on', async () => {
    const applied = await Promise.all(pools.map((pool) => migrate(pool, migrationsFolder)));
    expect(applied.filter((names) => names.length > 0).length).toBe(1);
    expect(await migrate(pools[0]!, migrationsFolder)).toEqual([]);
    const [locks] = await pools[0]!.query<RowDataPacket[]>('SELECT * FROM migrations_lock');
    expect(locks).toEqual([]);
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
    const before = mkdtempSync(join(tmpdir(), 'rawbits-migrations-'));
    for (const name of readdirSync(migrationsFolder).filter((file) => file.endsWith('.sql') && file < '0017'))
      copyFileSync(join(migrationsFolder, name), join(before, name));
    await migrate(pool, before);
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
