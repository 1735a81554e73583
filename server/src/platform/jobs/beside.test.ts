/** Whoever changes what a job works through waits for that job alone, and holds up no other. */
import { createPool } from 'mysql2/promise';
import { expect, it } from 'vitest';
import { openHouse } from '../../testing/harness.ts';
import { inTransaction } from '../database/index.ts';
import { besideJobs } from './index.ts';

it('a job of another kind says how far it is while a change that comes beside jobs is not yet saved', async () => {
  const house = await openHouse();
  const pool = createPool(house.databaseUrl);
  const { site } = house;
  const row = (id: string, kind: string, state: string) =>
    [id, site, kind, 'c', state, '{}', '{}', 'x', new Date(), new Date(), 'n'] as const;
  const rows = [row('mine', 'box', 'running')];
  for (let i = 0; i < 4; i++) rows.push(row(`box-${i}`, 'box', 'done'), row(`load-${i}`, 'load', 'done'));
  const columns = '(id, site_id, kind, subject, state, input, memo, started_by, started_at, heard_at, carrier)';
  await pool.query(`INSERT INTO jobs ${columns} VALUES ?`, [rows]);
  const waits = (id: string) =>
    inTransaction(house.server.app.db, async (tx) => {
      await besideJobs(tx, site, 'marking');
      const other = await pool.getConnection();
      await other.query('SET SESSION innodb_lock_wait_timeout = 1');
      const waited = await other.query('UPDATE jobs SET done = done + 1 WHERE id = ?', [id]).then(
        () => false,
        () => true,
      );
      other.release();
      return waited;
    });
  expect(await waits('mine')).toBe(false);
  await pool.query(`INSERT INTO jobs ${columns} VALUES ?`, [[row('theirs', 'marking', 'running')]]);
  expect([await waits('mine'), await waits('theirs')]).toEqual([false, true]);
  await pool.end();
  await house.close();
});
