/** The live feed: whoever goes on after the last number seen loses and repeats nothing, on whichever server. */
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { type House, openHouse, Person } from '../../testing/harness.ts';

/** Reads a stream until `enough`, then breaks it off; gives the numbers of the change entries. */
async function listen(
  person: Person,
  site: string,
  after: number | undefined,
  enough: (seqs: number[]) => boolean,
): Promise<{ seqs: number[]; first: string }> {
  const abort = new AbortController();
  const response = await fetch(`http://127.0.0.1:${person.port}/api/sites/${site}/live`, {
    headers: { cookie: person.cookie, ...(after !== undefined && { 'last-event-id': String(after) }) },
    signal: abort.signal,
  });
  const seqs: number[] = [];
  let first = '';
  let text = '';
  const decoder = new TextDecoder();
  try {
    for await (const chunk of response.body!) {
      text += decoder.decode(chunk as Uint8Array, { stream: true });
      const blocks = text.split('\n\n');
      text = blocks.pop()!;
      for (const block of blocks) {
        first ||= /^event: (\w+)$/m.exec(block)?.[1] ?? '';
        if (block.includes('event: change')) seqs.push(Number(/^id: (\d+)$/m.exec(block)![1]));
      }
      if (enough(seqs)) break;
    }
  } finally {
    abort.abort();
  }
  return { seqs, first };
}

describe('the live feed', () => {
  let house: House;
  beforeAll(async () => {
    house = await openHouse();
  });
  afterAll(() => house.close());

  it('is complete and in order over many broken connections, two servers and concurrent writers', async () => {
    const second = await house.another();
    const { administrator, site } = house;
    const there = new Person(second.port);
    there.cookie = administrator.cookie;
    const start = (await listen(administrator, site, 0, (s) => s.length >= 0)).seqs.at(-1) ?? 0;
    const writers = Array.from({ length: 40 }, (_, i) =>
      (i % 2 ? administrator : there).do('POST', `/sites/${site}/cardholders`, { name: `P${i}` }),
    );
    // Each new cardholder announces two things: cards and trail.
    const wanted = 80;
    const seen: number[] = [];
    let last = start;
    for (let round = 0; seen.length < wanted && round < 60; round++) {
      const { seqs } = await listen(
        round % 2 ? administrator : there,
        site,
        last,
        (s) => s.length >= Math.min(1 + (round % 7), wanted - seen.length),
      );
      seen.push(...seqs);
      last = seqs.at(-1) ?? last;
    }
    await Promise.all(writers);
    expect(seen.slice(0, wanted)).toEqual(Array.from({ length: wanted }, (_, i) => start + 1 + i));
  });

  it('says so when it cannot go on from where somebody was', async () => {
    expect((await listen(house.administrator, house.site, 1_000_000, () => true)).first).toBe('reset');
    expect((await listen(house.administrator, house.site, undefined, () => true)).first).toBe('hello');
  });

  it('the database is asked once for any number of listeners of a site', async () => {
    const { administrator, site, server } = house;
    const start = await administrator.do('POST', `/sites/${site}/cardholders`, { name: 'Start' });
    expect(start.id).toBeTruthy();
    const pool = (server.app.db as unknown as { $client: unknown }).$client as {
      query: (...args: unknown[]) => unknown;
    };
    const original = pool.query;
    let asked = 0;
    pool.query = function (this: unknown, ...args: unknown[]) {
      if (/from `feed`.*limit/s.test((args[0] as { sql?: string }).sql ?? '')) asked++;
      return original.apply(this, args);
    };
    const listeners = Array.from({ length: 8 }, () => listen(administrator, site, 1, (seqs) => seqs.includes(200)));
    const until = (count: number) => vi.waitFor(() => expect(asked).toBeGreaterThanOrEqual(count), { timeout: 60_000 });
    // Each of the eight catches up by itself.
    await until(8);
    asked = 0;
    const began = performance.now();
    await until(8);
    // From then on there is a round every 0.7 s: if it asked for each of them, eight would be reached within one.
    expect(performance.now() - began).toBeGreaterThan(4 * 700);
    pool.query = original;
    for (let i = 0; i < 100; i++) await administrator.do('POST', `/sites/${site}/cardholders`, { name: `L${i}` });
    for (const { seqs } of await Promise.all(listeners))
      expect(seqs).toEqual(Array.from({ length: seqs.length }, (_, i) => i + 2));
  });
});
