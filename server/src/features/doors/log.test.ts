/** What may be written about errors: never a parameter of a query, and never a secret. */
import { Writable } from 'node:stream';
import { createPool, type Pool } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { serverLog } from '../../platform/settings/log.ts';
import type { RunningServer } from '../../start.ts';
import { furnish, type House, loadAndWait, openHouse, PASSWORD, Person } from '../../testing/harness.ts';

describe('the log and the messages', () => {
  let house: House;
  let pool: Pool;
  let server: RunningServer;
  let person: Person;
  let written = '';
  beforeAll(async () => {
    house = await openHouse();
    pool = createPool(house.databaseUrl);
    const sink = new Writable({
      write(chunk, _encoding, done) {
        written += chunk;
        done();
      },
    });
    server = await house.another({ log: serverLog('trace', sink) });
    person = new Person(server.port);
    person.cookie = house.administrator.cookie;
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });
  /** Makes every write to a table fail, as a full disk or a lost right would. */
  const failing = async (table: string, when: 'INSERT' | 'UPDATE', run: () => Promise<unknown>) => {
    await pool.query(
      `CREATE TRIGGER no_writes BEFORE ${when} ON ${table} FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'no'`,
    );
    await run();
    await pool.query('DROP TRIGGER no_writes');
  };

  it('hold no hash of a password, no token and no name when an insert fails', async () => {
    const answers: { status: number; body: unknown }[] = [];
    await failing('operators', 'INSERT', async () => {
      answers.push(
        await person.call('POST', `/sites/${house.site}/operators`, {
          login: 'secretive',
          name: 'Very Private',
          roles: ['viewer'],
          password: PASSWORD,
        }),
      );
    });
    await failing('sessions', 'INSERT', async () => {
      answers.push(await new Person(server.port).call('POST', '/session', { login: 'admin', password: PASSWORD }));
    });
    expect(answers.map(({ status }) => status)).toEqual([500, 500]);
    expect(written).toContain('a request failed');
    expect(written).toMatch(/"errno":1644/);
    const [[hash]] = (await pool.query('SELECT password_hash AS h FROM operators')) as unknown as [[{ h: string }]];
    for (const secret of ['argon2', hash.h, 'secretive', 'Very Private', PASSWORD, 'insert into', 'params'])
      expect([secret, written.includes(secret), JSON.stringify(answers).includes(secret)]).toEqual([
        secret,
        false,
        false,
      ]);
  });

  it('a load that could not be noted as done is never called unchanged, and is settled afterwards', async () => {
    const { controller } = await furnish(house);
    const path = `/sites/${house.site}/controllers/${controller}`;
    await failing('events', 'INSERT', async () => {
      await person.do('POST', `${path}/loads`);
      await expect.poll(() => written).toContain('could not be noted yet');
    });
    // It took force at the device; nothing may say otherwise.
    expect((await person.do('GET', path)).load.message).not.toContain('unchanged');
    await pool.query('UPDATE jobs SET heard_at = NOW(3) - INTERVAL 1 MINUTE');
    await server.housekeep();
    await expect
      .poll(async () => (await person.do('GET', path)).load)
      .toMatchObject({ state: 'done', message: 'In force: 1 format, 0 cards.' });
    expect((await person.do('GET', path)).standing).toBe('current');
  });

  it('a load that fails in the database says so in a sentence of ours', async () => {
    const path = `/sites/${house.site}/controllers/${(await person.do('GET', `/sites/${house.site}/controllers`))[0].id}`;
    await failing('jobs', 'UPDATE', async () => {
      await person.do('POST', `${path}/loads`);
      await expect.poll(() => written.split('could not be noted yet').length).toBeGreaterThan(2);
    });
    await pool.query('UPDATE jobs SET heard_at = NOW(3) - INTERVAL 1 MINUTE');
    await server.housekeep();
    await expect.poll(async () => (await person.do('GET', path)).load.state).not.toBe('running');
    const { message } = (await person.do('GET', path)).load;
    expect(message).not.toMatch(/update|select|params/i);
  });

  it('a load lost to a crash is an entry, and the controller can be loaded again', async () => {
    const path = `/sites/${house.site}/controllers/${(await person.do('GET', `/sites/${house.site}/controllers`))[0].id}`;
    const trail = async () =>
      (await person.do('GET', `/sites/${house.site}/trail`)) as { seq: number; action: string; operator: string }[];
    // The load of the test before is gone on with; it is told as failed until it is.
    await expect.poll(async () => (await pool.query("SELECT id FROM jobs WHERE state = 'running'"))[0]).toEqual([]);
    const [newest] = await trail();
    await pool.query(
      `INSERT INTO jobs (id, site_id, kind, subject, state, total, input, memo, started_by, started_at, heard_at, carrier)
       SELECT 'lost', site_id, 'load', id, 'running', 9, '{"by":{"id":"x","name":"Somebody"}}', '{"digest":"x"}', 'Somebody', NOW(3), NOW(3) - INTERVAL 1 MINUTE, '' FROM controllers`,
    );
    await server.housekeep();
    await expect
      .poll(async () => (await trail()).filter(({ seq }) => seq > newest!.seq))
      .toContainEqual(expect.objectContaining({ operator: 'Somebody', action: 'load failed' }));
    expect((await loadAndWait(person, path)).state).toBe('done');
  });
});
