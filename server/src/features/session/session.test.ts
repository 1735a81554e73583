/** Signing in under attack, and how long a session lasts. */
import { createPool, type Pool } from 'mysql2/promise';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { tooEasy } from '../../platform/session/passwordRules.ts';
import { type House, openHouse, PASSWORD, Person } from '../../testing/harness.ts';

describe('signing in', () => {
  let house: House;
  let pool: Pool;
  beforeAll(async () => {
    house = await openHouse();
    pool = createPool(house.databaseUrl);
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });
  beforeEach(() => pool.query('DELETE FROM sign_in_failures'));
  const signIn = (login: string, password: string, headers?: Record<string, string>, port = house.server.port) =>
    new Person(port).call('POST', '/session', { login, password }, headers);

  it('of sixty guesses at once on one name, three are looked at, and one more for each wait that is over', async () => {
    const began = Date.now();
    const answers = await Promise.all(Array.from({ length: 60 }, (_, i) => signIn('admin', `guess number ${i}`)));
    const statuses = answers.map(({ status }) => status);
    // The waits are 1, 2, 4 … seconds: on a busy machine the first may be over before the last guess has come in.
    const waitsOver = Math.floor(Math.log2(1 + (Date.now() - began) / 1000));
    const looked = statuses.filter((s) => s === 401).length;
    expect([looked >= 1, looked <= 3 + waitsOver]).toEqual([true, true]);
    expect(statuses.filter((s) => s === 429 || s === 503).length).toBe(60 - looked);
  });

  it('the failures of other names from one address do not keep the right password out', async () => {
    for (let i = 0; i < 40; i++) await signIn(`name-${i}`, 'guess');
    expect((await signIn('admin', PASSWORD)).status).toBe(200);
  });

  it('many names from one address take turns, and the right password still gets its own', async () => {
    await pool.query("INSERT INTO sign_in_failures VALUES ('client 127.0.0.1', 200, NOW(3), NOW(3))");
    expect((await signIn('name-1', 'guess')).status).toBe(401);
    expect((await signIn('admin', PASSWORD)).status).toBe(200);
  });

  it('eight right passwords at once, of one name from one client, are eight sign-ins', async () => {
    const answers = await Promise.all(Array.from({ length: 8 }, () => signIn('admin', PASSWORD)));
    expect(answers.map(({ status }) => status)).toEqual(Array(8).fill(200));
  });

  it('a right password forgets the failures of its name', async () => {
    for (let round = 0; round < 2; round++) {
      await signIn('admin', 'guess');
      await signIn('admin', 'guess');
      expect((await signIn('admin', PASSWORD)).status).toBe(200);
    }
  });

  it('a wait ends even when the clock is set back by hours', async () => {
    // What was written before the clock was set back lies in its future.
    await pool.query(
      "INSERT INTO sign_in_failures VALUES ('pair admin 127.0.0.1', 9, NOW(3) + INTERVAL 3 HOUR, NOW(3) + INTERVAL 4 HOUR)",
    );
    expect((await signIn('admin', PASSWORD)).status).toBe(200);
  });

  it('changing one’s own password is slowed down like signing in', async () => {
    const person = await house.person('changer', 'viewer');
    const statuses: number[] = [];
    for (let i = 0; i < 5; i++)
      statuses.push(
        (await person.call('POST', '/session/password', { current: `guess ${i}`, next: 'another long one' })).status,
      );
    expect(statuses).toEqual([422, 422, 422, 429, 429]);
  });

  it('a proxy is believed about its clients when it is trusted, and not otherwise', async () => {
    const from = (client: string) => ({ 'x-forwarded-for': client, 'x-forwarded-proto': 'https' });
    for (let i = 0; i < 3; i++) await signIn('admin', 'guess', from('10.1.1.1'));
    expect((await signIn('admin', PASSWORD, from('10.1.1.2'))).status).toBe(429);
    await pool.query('DELETE FROM sign_in_failures');
    const behind = await house.another({ settings: { trustedProxies: ['loopback'] } });
    for (let i = 0; i < 3; i++) await signIn('admin', 'guess', from('10.1.1.1'), behind.port);
    expect((await signIn('admin', PASSWORD, from('10.1.1.1'), behind.port)).status).toBe(429);
    const good = await signIn('admin', PASSWORD, from('10.1.1.2'), behind.port);
    expect([good.status, good.headers.get('set-cookie')]).toEqual([200, expect.stringContaining('; Secure')]);
  });

  it('is noted, and so is a failure; a name that nobody has is not written down', async () => {
    await signIn('admin', 'guess');
    await signIn('my password by mistake', 'x');
    await house.administrator.signIn('admin');
    const [last, unknown, failed] = await house.administrator.do('GET', '/trail');
    expect([last.action, last.subject]).toEqual(['signed in', 'operator admin']);
    expect([unknown.action, JSON.stringify(unknown)]).toEqual([
      'sign-in failed',
      expect.not.stringContaining('my password'),
    ]);
    expect([failed.action, failed.subject]).toEqual(['sign-in failed', 'operator admin']);
  });
});

describe('a session', () => {
  let house: House;
  let pool: Pool;
  let person: Person;
  beforeAll(async () => {
    house = await openHouse();
    pool = createPool(house.databaseUrl);
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });
  beforeEach(async () => {
    person = new Person(house.server.port);
    await person.signIn('admin');
  });
  const isIn = async (who = person) => (await who.call('GET', '/session')).status === 200;
  const shift = (sql: string) => pool.query(`UPDATE sessions SET ${sql}`);

  it('ends after half an hour without use, and after twelve hours of any use', async () => {
    await shift('used_at = NOW(3) - INTERVAL 29 MINUTE');
    expect(await isIn()).toBe(true);
    await shift('used_at = NOW(3) - INTERVAL 31 MINUTE');
    expect(await isIn()).toBe(false);
    await person.signIn('admin');
    const [[row]] = (await pool.query(
      'SELECT TIMESTAMPDIFF(SECOND, created_at, expires_at) AS s FROM sessions ORDER BY created_at DESC LIMIT 1',
    )) as unknown as [[{ s: number }]];
    expect(row.s).toBe(12 * 3600);
    await shift('used_at = NOW(3) - INTERVAL 2 MINUTE');
    expect(await isIn()).toBe(true);
    // Use does not move the end.
    const [[again]] = (await pool.query(
      'SELECT TIMESTAMPDIFF(SECOND, created_at, expires_at) AS s FROM sessions ORDER BY created_at DESC LIMIT 1',
    )) as unknown as [[{ s: number }]];
    expect(again.s).toBe(12 * 3600);
  });

  it('both limits are settings', async () => {
    await shift('used_at = NOW(3) - INTERVAL 3 MINUTE');
    expect(await isIn()).toBe(true);
    await shift('used_at = NOW(3) - INTERVAL 3 MINUTE');
    const strict = await house.another({ settings: { sessionHours: 1, idleMinutes: 2 } });
    const there = new Person(strict.port);
    there.cookie = person.cookie;
    expect(await isIn(there)).toBe(false);
  });

  /** A live stream that collects what it says until it ends. */
  async function listen(who: Person): Promise<{ ended: Promise<void>; status: number; stop(): void }> {
    const abort = new AbortController();
    const response = await fetch(`http://127.0.0.1:${who.port}/api/sites/${house.site}/live`, {
      headers: { cookie: who.cookie },
      signal: abort.signal,
    });
    const ended = (async () => {
      for await (const _chunk of response.body!) {
        // Read until it ends.
      }
    })().catch(() => {});
    return { ended, status: response.status, stop: () => abort.abort() };
  }

  it('a live stream is no use of it', async () => {
    await shift('used_at = NOW(3) - INTERVAL 20 MINUTE');
    const stream = await listen(person);
    const [[row]] = (await pool.query(
      'SELECT TIMESTAMPDIFF(MINUTE, MAX(used_at), NOW(3)) AS idle FROM sessions',
    )) as unknown as [[{ idle: number }]];
    expect([stream.status, row.idle]).toEqual([200, 20]);
    stream.stop();
  });

  it('signing out ends its streams at once, on every server', async () => {
    const second = await house.another();
    const there = new Person(second.port);
    there.cookie = person.cookie;
    const streams = [await listen(person), await listen(there)];
    await person.do('DELETE', '/session');
    await Promise.all(streams.map(({ ended }) => ended));
  });

  it('a new sign-in of the same browser ends the old token, and a changed password all others', async () => {
    const old = new Person(house.server.port);
    old.cookie = person.cookie;
    await person.signIn('admin');
    expect([await isIn(old), await isIn()]).toEqual([false, true]);
    const elsewhere = new Person(house.server.port);
    await elsewhere.signIn('admin');
    const stream = await listen(elsewhere);
    await person.do('POST', '/session/password', { current: PASSWORD, next: 'quite another long one' });
    await stream.ended;
    expect([await isIn(elsewhere), await isIn()]).toEqual([false, true]);
    await person.do('POST', '/session/password', { current: 'quite another long one', next: PASSWORD });
  });

  it('one operator has at most eight streams on a server', async () => {
    const streams = [];
    for (let i = 0; i < 9; i++) streams.push(await listen(person));
    expect(streams.map(({ status }) => status)).toEqual([...Array(8).fill(200), 429]);
    for (const { stop } of streams) stop();
    await Promise.all(streams.map(({ ended }) => ended));
  });

  it('rows of sessions that ended are taken away', async () => {
    await shift('expires_at = NOW(3) - INTERVAL 1 SECOND');
    await house.server.housekeep();
    const [[row]] = (await pool.query('SELECT COUNT(*) AS n FROM sessions')) as unknown as [[{ n: number }]];
    expect(row.n).toBe(0);
  });
});

describe('a password', () => {
  const oline = { login: 'oline', name: 'Oline Strand' };
  it.each([
    ['password1234', 'most often'],
    ['Administrator1!', 'most often'],
    ['qwertyuiop123', 'most often'],
    ['111111111111', 'few different'],
    ['abababababab', 'few different'],
    ['dragondragon', 'written twice'],
    ['olinestrand2026', 'made of the name'],
    ['Oline-2026-11', 'made of the name'],
  ])('%s is too easy', (password, why) => {
    expect(tooEasy(password, oline)).toContain(why);
  });
  it.each([
    'lantern-over-skerry',
    'first-of-the-outsider',
    'strand of seven green fobs',
  ])('%s is let through', (password) => {
    expect(tooEasy(password, oline)).toBeUndefined();
  });
  it('is refused at its field, wherever one is chosen', async () => {
    const house = await openHouse();
    const weak = await house.administrator.call('POST', `/sites/${house.site}/operators`, {
      ...oline,
      roles: ['viewer'],
      password: 'olinestrand2026',
    });
    expect([weak.status, weak.body.error.where]).toEqual([422, { field: 'password' }]);
    const own = await house.administrator.call('POST', '/session/password', {
      current: PASSWORD,
      next: 'Administrator1!',
    });
    expect([own.status, own.body.error.where]).toEqual([422, { field: 'next' }]);
    await house.close();
  });
});
