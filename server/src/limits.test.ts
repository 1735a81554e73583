/** What is looked at before anything is built from a request, and what a request may cost. */
import { connect } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { checkShape } from './platform/http/body.ts';
import { type House, openHouse, Person } from './testing/harness.ts';

describe('the shape of a body', () => {
  const codeOf = (text: string, entries = 3) => {
    try {
      checkShape(Buffer.from(text), { entries });
      return undefined;
    } catch (error) {
      return (error as { code: string }).code;
    }
  };
  it.each([
    ['[1,2,3]', undefined],
    ['[1,2,3,4]', 'too-many'],
    ['{"a":1,"b":2,"c":3,"d":4}', 'too-many'],
    ['[[1,2,3],[1,2,3],[1,2,3]]', undefined],
    ['["a,b,c,d,e","\\",,,,,","[[[["]', undefined],
    [`${'['.repeat(32)}${']'.repeat(32)}`, undefined],
    ['['.repeat(33), 'too-deep'],
    [`["${'['.repeat(99)}"]`, undefined],
    [']]]]]]]', undefined],
  ])('%s', (text, code) => {
    expect(codeOf(text)).toBe(code);
  });
});

describe('a request', () => {
  let house: House;
  let at: string;
  beforeAll(async () => {
    house = await openHouse();
    at = `/sites/${house.site}`;
  });
  afterAll(() => house.close());
  const nested = '['.repeat(5_000_000);

  it('of somebody unknown is refused before it is read', async () => {
    const nobody = new Person(house.server.port);
    for (const path of [`${at}/cards`, '/formats/import', `${at}/cases`])
      expect((await nobody.call('POST', path, 'this is not even JSON')).status).toBe(401);
    expect((await nobody.call('POST', '/session', nested)).status).toBe(413);
    expect((await nobody.call('POST', '/setup', `{"token":"${'x'.repeat(5000)}"}`)).status).toBe(413);
  });

  it.each([
    ['brackets in brackets', '/cases', nested, 422, 'too-deep'],
    ['a million empty specimens', '/cases', `{"name":"C","specimens":[${'{},'.repeat(999_999)}{}]}`, 413, 'too-many'],
    ['no JSON', '/cases', '{"name":', 400, 'json'],
    ['no UTF-8', '/cardholders', Buffer.from([0x22, 0xff, 0x22]), 400, 'utf-8'],
  ])('of %s is refused', async (_, path, body, status, code) => {
    const answer = await house.administrator.call('POST', `${at}${path}`, body);
    expect([answer.status, answer.body.error.code]).toEqual([status, code]);
  });

  it('that is not said to be JSON is refused', async () => {
    const answer = await house.administrator.call('POST', `${at}/cardholders`, '{"name":"A"}', {
      'content-type': 'text/plain',
    });
    expect([answer.status, answer.body.error.code]).toEqual([415, 'content-type']);
  });

  // Each of these held the whole server for 19 to 120 seconds.
  it.each([
    ['lines that are none', 'lines', 'x\n'.repeat(2_000_000)],
    ['empty objects', 'json', `[${'{},'.repeat(500_000)}{}]`],
    ['empty rows', 'csv', `format,bits,role,at\n${'\n'.repeat(4_000_000)}`],
  ])('to import %s is worked out beside the others, who are answered meanwhile', async (_, kind, text) => {
    const imported = house.administrator.call('POST', '/formats/import', { kind, text });
    let [answered, done] = [0, false];
    void imported.finally(() => (done = true));
    while (!done) {
      await house.administrator.do('GET', '/session');
      if (!done) answered++;
    }
    const { status, body } = await imported;
    expect([status, body.problems.at(-1).code, answered > 0]).toEqual([200, 'file-long', true]);
  });

  it('under another name than the configured is refused', async () => {
    const ask = (host: string, port = house.server.port) =>
      new Promise<string>((resolve) => {
        const socket = connect(port, '127.0.0.1', () =>
          socket.write(`GET /api/health HTTP/1.1\r\nHost: ${host}\r\nConnection: close\r\n\r\n`),
        );
        let text = '';
        socket.on('data', (chunk) => (text += chunk)).on('end', () => resolve(text.slice(9, 12)));
      });
    const { port } = house.server;
    expect(await ask(`127.0.0.1:${port}`)).toBe('200');
    expect(await ask(`localhost:${port}`)).toBe('200');
    expect(await ask(`[::1]:${port}`)).toBe('200');
    for (const wrong of [`[::1]x`, `[::1]x:${port}`, `[::1]:${port}:1`, 'x[::1]', `localhost:${port}x`, `localhost:`])
      expect([wrong, await ask(wrong)]).toEqual([wrong, '421']);
    expect(await ask(`rebound.example:${port}`)).toBe('421');
    expect(await ask(`127.0.0.1.rebound.example:${port}`)).toBe('421');
    const named = await house.another({ settings: { publicUrl: 'https://bits.station.example' } });
    expect(await ask('bits.station.example', named.port)).toBe('200');
  });

  it('is answered while the server stops, and no new one is taken', async () => {
    const server = await house.another();
    const person = new Person(server.port);
    person.cookie = house.administrator.cookie;
    const { verifier } = server.app;
    const verify = verifier.verify.bind(verifier);
    let release!: () => void;
    const held = new Promise<void>((resolve) => (release = resolve));
    const begun = new Promise<void>((resolve) => {
      verifier.verify = async (...all) => {
        resolve();
        await held;
        return verify(...all);
      };
    });
    const slow = person.call('GET', `${at}/trail/verification`);
    await begun;
    const closed = server.close();
    release();
    expect((await slow).status).toBe(200);
    await closed;
    await expect(person.call('GET', '/session')).rejects.toThrow();
  });
});

describe('a request that names itself', () => {
  let house: House;
  let at: string;
  beforeAll(async () => {
    house = await openHouse();
    at = `/sites/${house.site}`;
  });
  afterAll(() => house.close());
  const add = (name: string, key: string, port = house.server.port) => {
    const person = new Person(port);
    person.cookie = house.administrator.cookie;
    return person.call('POST', `${at}/cardholders`, { name }, { 'idempotency-key': key });
  };
  const count = async (name: string) =>
    (await house.administrator.do('GET', `${at}/cardholders`)).cardholders.filter(
      (h: { name: string }) => h.name === name,
    ).length;

  it('is carried out once, and answered alike each time, on whichever server', async () => {
    const second = await house.another();
    const first = await add('Once', 'key-0001');
    const again = [await add('Once', 'key-0001'), await add('Once', 'key-0001', second.port)];
    expect(again.map(({ status, body }) => [status, body])).toEqual(Array(2).fill([200, first.body]));
    expect(await count('Once')).toBe(1);
  });

  it('ten at once are one', async () => {
    const second = await house.another();
    const answers = await Promise.all(
      Array.from({ length: 10 }, (_, i) => add('Ten', 'key-0002', i % 2 ? second.port : undefined)),
    );
    expect(new Set(answers.map(({ status, body }) => `${status} ${body.id}`)).size).toBe(1);
    expect(await count('Ten')).toBe(1);
  });

  it('another request under its key is refused, and one that failed may be tried again', async () => {
    await add('Key', 'key-0003');
    expect((await add('Other', 'key-0003')).body.error.code).toBe('key-reused');
    expect((await add('', 'key-0004')).status).toBe(422);
    expect((await add('Now', 'key-0004')).status).toBe(200);
    expect((await add('Bad', 'short')).status).toBe(422);
  });
});
