/**
 * A clock that ran a year ahead and was put right, and one that was a year back: what was written meanwhile is over, and whatever
 * waits for it goes on.
 */
import { approvalApi, armingApi, keyStoreApi, tokenApi } from '@rawbits/api';
import { createPool, type Pool } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { giveUpQuietImports } from './features/transfer/import.ts';
import { connect } from './platform/database/connect.ts';
import { migrate } from './platform/database/index.ts';
import { insertJob } from './platform/jobs/index.ts';
import { furnish, type House, openHouse, PASSWORD, Person } from './testing/harness.ts';
import { migrationsFolder } from './testing/template.ts';

describe('a clock that was a year out, and was put right', () => {
  let house: House;
  let pool: Pool;
  let site: string;
  let custodian: Person;
  beforeAll(async () => {
    house = await openHouse();
    pool = createPool(house.databaseUrl);
    ({ site } = house);
    await furnish(house);
    custodian = await house.person('iris', 'key custodian');
    await custodian.ask(keyStoreApi.make, { site }, { passphrase: 'kelp under the third winch' });
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });
  /** Puts instants of a table a year ahead or back, as a server of the time would have written them. */
  const shift = (table: string, years: 1 | -1, ...columns: string[]) =>
    pool.query(`UPDATE ?? SET ${columns.map(() => '?? = ?? + INTERVAL ? YEAR').join(', ')}`, [
      table,
      ...columns.flatMap((column) => [column, column, years]),
    ]);

  it.each([1, -1] as const)('%i: a job that its server left is taken up', async (years) => {
    const { app } = house.server;
    let carried = 0;
    app.jobs.register(`left ${years}`, async () => void carried++);
    await insertJob(app.db, { siteId: site, kind: `left ${years}`, input: {}, startedBy: 'test' });
    // Heard just now, it is its carrier's.
    await app.jobs.takeUpLost();
    expect(carried).toBe(0);
    await shift('jobs', years, 'heard_at');
    await app.jobs.takeUpLost();
    expect(carried).toBe(1);
    await pool.query('DELETE FROM jobs WHERE kind = ?', [`left ${years}`]);
  });

  it.each([1, -1] as const)('%i: a key store that was open then is locked', async (years) => {
    await custodian.ask(keyStoreApi.unlock, { site }, { passphrase: 'kelp under the third winch' });
    expect((await custodian.ask(keyStoreApi.state, { site })).open).toBe(true);
    await shift('key_stores', years, 'used_at', 'opened_at');
    expect((await custodian.ask(keyStoreApi.state, { site })).open).toBe(false);
    await expect(house.server.app.vault.open(site)).rejects.toThrow('locked');
    await house.server.app.vault.keep();
    const [[row]] = (await pool.query('SELECT open_id FROM key_stores')) as never as [[{ open_id: string | null }]];
    expect(row.open_id).toBeNull();
  });

  it.each([1, -1] as const)('%i: a server that was killed then holds no store', async (years) => {
    await custodian.ask(keyStoreApi.unlock, { site }, { passphrase: 'kelp under the third winch' });
    const other = await house.another();
    await pool.query('UPDATE vault_servers SET heard_at = NOW(3)');
    const servers = async () => (await other.app.vault.state(site)).servers.filter(({ self }) => !self);
    expect(await servers()).toMatchObject([{ holds: true }]);
    // As if this one had been killed: it forgets nothing, and says nothing more.
    await pool.query('UPDATE vault_servers SET heard_at = heard_at + INTERVAL ? YEAR', [years]);
    expect(await servers()).toEqual([]);
    await other.close();
  });

  it.each([1, -1] as const)('%i: a session that was opened then has ended', async (years) => {
    const person = new Person(house.server.port);
    await person.do('POST', '/session', { login: 'iris', password: PASSWORD });
    expect((await person.call('GET', '/session')).status).toBe(200);
    await pool.query(
      `UPDATE sessions SET created_at = created_at + INTERVAL ? YEAR, used_at = used_at + INTERVAL ? YEAR,
       expires_at = expires_at + INTERVAL ? YEAR ORDER BY created_at DESC LIMIT 1`,
      [years, years, years],
    );
    expect((await person.call('GET', '/session')).status).toBe(401);
    await house.server.housekeep();
    const [rows] = await pool.query('SELECT * FROM sessions WHERE ABS(DATEDIFF(used_at, NOW())) > 100');
    expect(rows).toEqual([]);
  });

  it.each([
    1, -1,
  ] as const)('%i: a lock that a migration left is taken over, and who waits for another says so', async (years) => {
    await pool.query('INSERT INTO migrations_lock VALUES (1, ?, NOW(3) + INTERVAL ? YEAR)', ['gone', years]);
    const { nodes, close } = connect(house.databaseUrl);
    const said: string[] = [];
    expect(await migrate(nodes, migrationsFolder, { say: (text) => said.push(text) })).toEqual([]);
    expect(said).toEqual([]);
    await pool.query('INSERT INTO migrations_lock VALUES (1, ?, NOW(3))', ['another']);
    const waiting = migrate(nodes, migrationsFolder, { say: (text) => said.push(text) });
    await expect.poll(() => said, { timeout: 10_000 }).toHaveLength(1);
    await pool.query('DELETE FROM migrations_lock');
    await waiting;
    await close();
  });

  it('ahead: what waits for a second person, a reader that somebody waits at, a token and an import are over', async () => {
    const { administrator } = house;
    await administrator.ask(approvalApi.list, { site });
    const answer = await administrator.call('POST', `/sites/${site}/operators`, {
      login: 'second',
      name: 'Second',
      roles: ['key custodian'],
      password: 'a-long-enough-one-2',
    });
    expect(answer.status).toBe(200);
    expect(await administrator.ask(approvalApi.list, { site })).toHaveLength(1);
    const [reader] = await administrator.do('GET', `/sites/${site}/readers`);
    await administrator.ask(armingApi.arm, { site, id: reader.id }, { seconds: 300 });
    const { text } = await administrator.ask(
      tokenApi.make,
      { site },
      { name: 'Script', permissions: ['see the site'], days: 2 },
    );
    const asScript = () =>
      fetch(`http://127.0.0.1:${house.server.port}/api/sites/${site}/cards`, {
        headers: { authorization: `Bearer ${text}` },
      });
    expect((await asScript()).status).toBe(200);
    const { id } = await administrator.do('POST', '/imports', {});
    await shift('approvals', 1, 'asked_at', 'ends_at');
    await shift('armed_readers', 1, 'until');
    await shift('api_tokens', 1, 'made_at', 'ends_at');
    await pool.query("UPDATE jobs SET heard_at = heard_at + INTERVAL 1 YEAR WHERE kind = 'import'");
    expect(await administrator.ask(approvalApi.list, { site })).toEqual([]);
    expect(await administrator.ask(armingApi.list, { site })).toEqual([]);
    expect((await asScript()).status).toBe(401);
    await giveUpQuietImports(house.server.app);
    expect((await administrator.call('DELETE', `/imports/${id}`)).status).toBe(404);
  });
});
