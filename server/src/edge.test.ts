/** The edge: bad requests, headers, sessions, the API's own documents. */

import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { allRoutes } from './app.ts';
import { settingsFrom } from './platform/settings/settings.ts';
import { type House, openHouse, PASSWORD, Person } from './testing/harness.ts';

describe('the edge', () => {
  let house: House;
  let at: string;
  beforeAll(async () => {
    house = await openHouse();
    at = `/sites/${house.site}`;
  });
  afterAll(() => house.close());

  it.each([
    ['malformed JSON', 'POST', '/cards', '{"formatId":', 400, 'json'],
    ['a wrong type', 'POST', '/cards', { formatId: 7 }, 422, 'invalid'],
    ['an unknown field', 'POST', '/cardholders', { name: 'A', colour: 'red' }, 422, 'invalid'],
    ['a missing field', 'POST', '/reads', { notation: 'binary' }, 422, 'invalid'],
    ['513 bits', 'POST', '/reads', { bits: '1'.repeat(513), notation: 'binary' }, 422, 'invalid'],
    ['a query out of range', 'GET', '/reads?limit=9999', undefined, 422, 'invalid'],
    ['an address that is not there', 'GET', '/nowhere', undefined, 404, 'not-found'],
    ['more than a megabyte', 'POST', '/cardholders', { name: 'x'.repeat(1_100_000) }, 413, 'too-large'],
    [
      'a card of a format not adopted',
      'POST',
      '/cards',
      { formatId: '37-0-35', facility: null, number: '1' },
      422,
      'invalid',
    ],
  ])('%s', async (_, method, path, body, status, code) => {
    const answer = await house.administrator.call(method, `${at}${path}`, body);
    expect([answer.status, answer.body.error.code]).toEqual([status, code]);
    expect(answer.body.error.message.length).toBeGreaterThan(10);
  });

  it('says which field is wrong', async () => {
    const answer = await house.administrator.call('POST', `${at}/cardholders`, { name: 7 });
    expect(answer.body.error.where).toEqual({ field: 'name' });
    const layout = await house.administrator.call('POST', '/formats', {
      id: 'x',
      name: 'X',
      layout: '26 | 1 evn 2-13',
    });
    expect(layout.body.error).toMatchObject({ code: 'layout-word', where: { column: 8, field: 'layout' } });
    const unsound = await house.administrator.call('POST', '/formats', {
      id: 'x',
      name: 'X',
      layout: '8 | 1 even 2-8 | 8 odd 1-7 | 2-7 number',
    });
    expect(unsound.body.error).toMatchObject({ code: 'cycle' });
  });

  it('a missing site is not there', async () => {
    expect((await house.administrator.call('GET', '/sites/none/cards')).status).toBe(404);
  });

  it('refuses requests from other sites, and lets those without a browser’s marks in', async () => {
    const body = { name: 'Cross' };
    const call = (headers: Record<string, string>) =>
      house.administrator.call('POST', `${at}/cardholders`, body, headers);
    expect((await call({ origin: 'https://elsewhere.example' })).body.error.code).toBe('cross-site');
    expect((await call({ 'sec-fetch-site': 'cross-site' })).body.error.code).toBe('cross-site');
    expect((await call({ 'sec-fetch-site': 'same-site' })).body.error.code).toBe('cross-site');
    expect(
      (await call({ origin: `http://127.0.0.1:${house.server.port}`, 'sec-fetch-site': 'same-origin' })).status,
    ).toBe(200);
  });

  it('cookies are HttpOnly and SameSite=Strict; nothing inline is allowed to run', async () => {
    const person = new Person(house.server.port);
    const answer = await person.call('POST', '/session', { login: 'admin', password: PASSWORD });
    expect(answer.headers.get('set-cookie')).toMatch(/HttpOnly; SameSite=Strict/i);
    const policy = answer.headers.get('content-security-policy')!;
    expect(policy).toContain("default-src 'self'");
    expect(policy).not.toContain('unsafe');
  });

  it('a session that ended is told as such, and signing out ends it for good', async () => {
    const person = new Person(house.server.port);
    await person.signIn('admin');
    const { cookie } = person;
    await person.do('DELETE', '/session');
    person.cookie = cookie;
    expect((await person.call('GET', `${at}/cards`)).body.error).toMatchObject({
      code: 'signed-out',
      hint: expect.stringContaining('Sign in again'),
    });
  });

  it('a first password must be changed before anything else; changing one ends the other sessions', async () => {
    await house.administrator.do('POST', `${at}/operators`, {
      login: 'new',
      name: 'New',
      roles: ['viewer'],
      password: 'given-by-another',
    });
    const [one, two] = [new Person(house.server.port), new Person(house.server.port)];
    expect((await one.signIn('new', 'given-by-another')).operator.mustChangePassword).toBe(true);
    await two.signIn('new', 'given-by-another');
    expect((await one.call('GET', `${at}/cards`)).body.error.code).toBe('change-password');
    expect((await one.call('POST', '/session/password', { current: 'wrong', next: 'chosen-by-myself' })).status).toBe(
      422,
    );
    await one.do('POST', '/session/password', { current: 'given-by-another', next: 'chosen-by-myself' });
    expect((await one.call('GET', `${at}/cards`)).status).toBe(200);
    expect((await two.call('GET', '/session')).status).toBe(401);
  });

  it('a closed operator is out at once', async () => {
    const person = await house.person('leaver', 'viewer');
    const { id } = (await house.administrator.do('GET', `${at}/operators`)).find(
      (o: { login: string }) => o.login === 'leaver',
    );
    await house.administrator.do('POST', `${at}/operators/${id}/close`);
    expect((await person.call('GET', '/session')).status).toBe(401);
    expect((await person.call('POST', '/session', { login: 'leaver', password: PASSWORD })).status).toBe(401);
  });

  it('failed sign-ins are slowed down, on every server alike', async () => {
    const another = await house.another();
    const statuses: number[] = [];
    for (let i = 0; i < 5; i++) {
      const person = new Person(i % 2 ? another.port : house.server.port);
      statuses.push((await person.call('POST', '/session', { login: 'someone', password: 'guess' })).status);
    }
    expect(statuses).toEqual([401, 401, 401, 429, 429]);
    const wait = await new Person(another.port).call('POST', '/session', { login: 'someone', password: 'guess' });
    expect(Number(wait.headers.get('retry-after'))).toBeGreaterThan(0);
    expect(wait.body.error.message).toMatch(/Wait \d+ second/);
  });

  it('setup works once only', async () => {
    const body = {
      token: 'setup-token',
      login: 'second',
      name: 'Second',
      password: PASSWORD,
      site: { name: 'X', shortName: 'X' },
    };
    expect((await new Person(house.server.port).call('POST', '/setup', body)).body.error.code).toBe('already-set-up');
    expect((await new Person(house.server.port).call('POST', '/setup', { ...body, token: 'guess' })).status).toBe(403);
  });

  it('OpenAPI 3.1 names every route, and the page can be read', async () => {
    const { body } = await house.administrator.call('GET', '/openapi.json');
    expect(body.openapi).toBe('3.1.0');
    for (const { path, method } of allRoutes(() => undefined as never))
      expect(Object.keys(body.paths[`/api${path}`])).toContain(method);
    expect((await house.administrator.call('GET', '')).body).toContain('Raw Bits API');
    expect((await house.administrator.call('GET', '/schemas/format-1.json')).body.title).toBe(
      'Raw Bits format, version 1',
    );
  });

  it('a way to the database that cannot be encrypted as it should be is no way', async () => {
    const settings = (databaseCa: string) => ({ settings: settingsFrom({ RAWBITS_DATABASE_CA: databaseCa }) });
    await expect(house.another(settings('/none.pem'))).rejects.toThrow(
      'RAWBITS_DATABASE_CA=/none.pem cannot be read (ENOENT)',
    );
    // This database has no certificate.
    await expect(house.another(settings('system'))).rejects.toThrow(/secure connection/);
  });
});

describe('metrics', () => {
  it('are there where a token is set, for whoever sends it, and name nothing but routes', async () => {
    const house = await openHouse();
    const token = 'sixteen-letters-at-least';
    const server = await house.another({ settings: settingsFrom({ RAWBITS_METRICS_TOKEN: token }) });
    const ask = (port: number, authorization?: string) =>
      fetch(`http://127.0.0.1:${port}/metrics`, { headers: authorization ? { authorization } : {} });
    expect((await ask(house.server.port, `Bearer ${token}`)).status).toBe(404);
    for (const wrong of [undefined, 'Bearer no', `Basic ${token}`])
      expect((await ask(server.port, wrong)).status).toBe(401);
    const person = Object.assign(new Person(server.port), { cookie: house.administrator.cookie });
    await person.do('GET', `/sites/${house.site}/cards?search=secret-print`);
    const text = await (await ask(server.port, `Bearer ${token}`)).text();
    expect(text).toMatch(/rawbits_http_requests_total\{method="get",route="\/sites\/\{site\}\/cards"\} 1/);
    expect(text).toMatch(/rawbits_http_request_seconds_count\{method="get",route="[^"]*cards",status="200"\} 1/);
    expect([text.includes('secret-print'), text.includes(house.site)]).toEqual([false, false]);
    await house.close();
  });

  it.each([
    [{ RAWBITS_METRICS_TOKEN: 'short' }, 'RAWBITS_METRICS_TOKEN is not right: a text of at least 16'],
    [{ RAWBITS_ADDRESS: 'everywhere' }, 'RAWBITS_ADDRESS=everywhere is not right: an IP address'],
    [{ RAWBITS_LOG: 'loud' }, 'RAWBITS_LOG=loud is not right: silent, fatal'],
  ])('%j is refused at the start', (env, message) => expect(() => settingsFrom(env)).toThrow(message));
});
