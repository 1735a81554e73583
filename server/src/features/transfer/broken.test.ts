/** Exports that nobody takes: broken off, or read so slowly that they seem to be, they are in nobody's way. */
import { createHash, randomBytes } from 'node:crypto';
import { createServer, get, type IncomingMessage } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Response } from 'express';
import { createPool } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { sendLines } from '../../platform/http/sending.ts';
import { eventually, type House, openHouse } from '../../testing/harness.ts';

describe('an export', () => {
  let house: House;
  let port: number;
  beforeAll(async () => {
    house = await openHouse();
    ({ port } = house.server);
    const pool = createPool(house.databaseUrl);
    // More than the buffers between take, and nothing that compresses.
    for (let page = 0; page < 20; page++)
      await pool.query('INSERT INTO cardholders (id, site_id, name, department, notes) VALUES ?', [
        Array.from({ length: 500 }, (_, i) => [
          createHash('sha256').update(`${page} ${i}`).digest('hex').slice(0, 20),
          house.site,
          `Holder ${page} ${i}`,
          '',
          randomBytes(900).toString('hex'),
        ]),
      ]);
    await pool.end();
  });
  afterAll(() => house.close());

  /** Asks for one; gives its status once that is there, with nothing of it read. */
  const begin = () =>
    new Promise<IncomingMessage>((resolve, reject) => {
      const path = `/api/sites/${house.site}/export?history=true`;
      get({ port, path, agent: false, headers: { cookie: house.administrator.cookie } }, (answer) => {
        answer.pause();
        answer.on('error', () => {});
        resolve(answer);
      }).on('error', reject);
    });
  const begun = async (count: number) => Promise.all(Array.from({ length: count }, begin));

  it('sixteen, each broken off: the seventeenth comes whole', async () => {
    for (let round = 0; round < 8; round++) for (const answer of await begun(2)) answer.destroy();
    const answer = await eventually(begin, ({ statusCode, destroy }) => {
      if (statusCode !== 200) destroy.call(answer);
      return statusCode === 200;
    });
    let bytes = 0;
    for await (const chunk of answer) bytes += (chunk as Buffer).length;
    expect(bytes).toBeGreaterThan(10_000_000);
  });

  it('thirteen that nobody reads: two are under way, the others are told when to ask again, and others work on', async () => {
    const answers = await begun(13);
    const busy = answers.filter(({ statusCode }) => statusCode === 503);
    expect([answers.length - busy.length, busy[0]!.headers['retry-after']]).toEqual([2, '10']);
    const began = performance.now();
    for (let i = 0; i < 20; i++) await house.administrator.do('GET', `/sites/${house.site}/cards`);
    expect(performance.now() - began).toBeLessThan(10_000);
    for (const answer of answers) answer.destroy();
  });
});

describe('lines to somebody who', () => {
  async function* endless() {
    for (let i = 0; ; i++) yield randomBytes(3000).toString('hex') + i;
  }
  /** What became of lines that were sent to a client. */
  async function sentTo(client: (port: number) => void, gone = false): Promise<boolean> {
    let done: (whole: boolean) => void = () => {};
    const whole = new Promise<boolean>((resolve) => (done = resolve));
    const server = createServer(async (_request, response) => {
      // Somebody who has gone before the first of it is sent.
      if (gone) await new Promise((resolve) => response.once('close', resolve));
      done(await sendLines(response as unknown as Response, endless(), { stalledMs: 300, mostMs: 1500 }));
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    client((server.address() as AddressInfo).port);
    const ended = await whole;
    server.closeAllConnections();
    server.close();
    return ended;
  }
  const asking = (port: number, answered: (answer: IncomingMessage) => void) => {
    const request = get({ port, agent: false }, answered);
    request.on('error', () => {});
    return request;
  };

  it.each([
    ['takes nothing', (port: number) => void asking(port, (answer) => answer.pause())],
    ['goes in the middle', (port: number) => void asking(port, (answer) => answer.destroy())],
    ['takes a little for ever', (port: number) => void asking(port, (answer) => answer.resume())],
  ])('%s end', async (_, client) => {
    expect(await sentTo(client)).toBe(false);
  });

  it('has gone before the first of them end', async () => {
    const leaves = (port: number) => {
      const request = asking(port, () => {});
      setTimeout(() => request.destroy(), 50);
    };
    expect(await sentTo(leaves, true)).toBe(false);
  });
});
