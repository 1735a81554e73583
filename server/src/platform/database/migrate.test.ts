/** Migrations: several servers at once on an empty database, and after a holder that died in the middle. */
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
});
