/**
 * Three servers on a MariaDB Galera cluster of three nodes, each with a node of its own in front: what holds on one
 * database has to hold there, while nodes die, come back, and lose sight of one another.
 */
import { chmodSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createPool, type RowDataPacket } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Cluster, startCluster } from '../../../bin/lib/galera.ts';
import type { RunningServer } from '../start.ts';
import { furnish, type House, holdLoads, openHouse, Person } from '../testing/harness.ts';

/** `WSREP has not yet prepared node for application use`: MariaDB’s ER_UNKNOWN_COM_ERROR. */
const NOT_READY = 1047;

describe('on a cluster', () => {
  let folder: string;
  let cluster: Cluster;
  let house: House;
  let servers: RunningServer[];
  /** The administrator, at each server. */
  let people: Person[];
  let at: string;
  let controller: string;

  /** The cluster's address with node `first` in front. */
  const addressFrom = (first: number): string => {
    const hosts = cluster.nodes.map((_, i) => cluster.nodes[(first + i) % cluster.nodes.length]!.host);
    return cluster.nodes[0]!.url.replace(cluster.nodes[0]!.host, hosts.join(','));
  };

  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'rawbits-cluster-'));
    chmodSync(folder, 0o755);
    cluster = await startCluster(folder);
    house = await openHouse(addressFrom(0));
    const trailKey = readFileSync(join(house.stateFolder, 'trail.key'), 'utf8');
    servers = [house.server];
    for (const i of [1, 2])
      servers.push(
        await house.another({ databaseUrl: addressFrom(i), trailKey, stateFolder: join(folder, `state-${i}`) }),
      );
    people = servers.map(({ port }) => {
      const person = new Person(port);
      person.cookie = house.administrator.cookie;
      return person;
    });
    at = `/sites/${house.site}`;
    controller = (await furnish(house)).controller;
  });
  afterAll(async () => {
    await house?.close();
    await cluster?.stop();
    rmSync(folder, { recursive: true, force: true });
  });

  const rowsOn = async (node: number, sql: string, values: unknown[] = []): Promise<RowDataPacket[]> => {
    const pool = createPool({ uri: cluster.nodes[node]!.url, connectionLimit: 1 });
    try {
      // A node that has just come back answers nothing for a moment, now and then again: the servers ask another meanwhile.
      for (const until = Date.now() + 90_000; ; await new Promise((resolve) => setTimeout(resolve, 50)))
        try {
          await pool.query('SET SESSION wsrep_sync_wait = 1');
          return (await pool.query<RowDataPacket[]>(sql, values))[0];
        } catch (error) {
          if ((error as { errno?: number }).errno !== NOT_READY || Date.now() > until) throw error;
        }
    } finally {
      await pool.end();
    }
  };
  const holdersOn = async (node: number): Promise<number> =>
    (await rowsOn(node, 'SELECT COUNT(*) AS n FROM cardholders WHERE site_id = ?', [house.site]))[0]!.n;

  /** Adds cardholders through every server at once, `each` for each of `writers`; gives the statuses that came back. */
  async function write(name: string, writers: number, each: number): Promise<number[]> {
    const statuses: number[] = [];
    await Promise.all(
      people.flatMap((person, p) =>
        Array.from({ length: writers }, async (_, w) => {
          for (let i = 0; i < each; i++)
            statuses.push((await person.call('POST', `${at}/cardholders`, { name: `${name} ${p}-${w}-${i}` })).status);
        }),
      ),
    );
    return statuses;
  }

  async function expectWhole(): Promise<void> {
    await expect
      .poll(() =>
        rowsOn(0, 'SELECT chain FROM trail WHERE seq IS NULL UNION SELECT site_id FROM feed WHERE seq IS NULL'),
      )
      .toEqual([]);
    for (const person of people)
      expect(await person.do('GET', `${at}/trail/verification`)).toMatchObject({ intact: true, findings: [] });
    const feed = await rowsOn(1, 'SELECT seq FROM feed WHERE site_id = ? ORDER BY seq', [house.site]);
    expect(feed.map(({ seq }) => seq)).toEqual(feed.map((_, i) => i + 1));
  }

  it('of three servers that begin a load of one controller at once, exactly one does, in every round', async () => {
    for (let round = 0; round < 6; round++) {
      const release = holdLoads(servers);
      const answers = await Promise.all(people.map((p) => p.call('POST', `${at}/controllers/${controller}/loads`)));
      release();
      expect(answers.map(({ status }) => status).sort()).toEqual([200, 409, 409]);
      await expect
        .poll(async () => (await people[1]!.do('GET', `${at}/controllers/${controller}`)).load.state)
        .toBe('done');
    }
  });

  it('eight writers at each of three servers: none fails, every node has all, record and feed are whole', async () => {
    const before = await holdersOn(0);
    expect([...new Set(await write('Writer', 8, 6))]).toEqual([200]);
    for (const node of [0, 1, 2]) expect(await holdersOn(node)).toBe(before + 3 * 8 * 6);
    await expectWhole();
  });

  it('what one server was told is saved is there on the others at once', async () => {
    for (let i = 0; i < 12; i++) {
      const name = `Seen at once ${i}`;
      await people[i % 3]!.do('POST', `${at}/cardholders`, { name });
      const { cardholders: seen } = await people[(i + 1) % 3]!.do('GET', `${at}/cardholders?limit=1000`);
      expect(seen.some((holder: { name: string }) => holder.name === name)).toBe(true);
    }
  });

  it('cards that are changed on other nodes while a controller is told of them all are each told of as they are', async () => {
    const [format, cards] = ['37-16-19', 3000];
    await people[0]!.do('PUT', `${at}/formats/${format}`);
    const pool = createPool(cluster.nodes[0]!.url);
    const rows = Array.from({ length: cards }, (_, i) => {
      return [`many-${i}`, house.site, format, '7', String(i), '', 'suspended', '', 1, new Date(1.7e12 + i)];
    });
    await pool.query(
      'INSERT INTO cards (id, site_id, format_id, facility, number, printed, state, notes, revision, created_at) VALUES ?',
      [rows],
    );
    await pool.query(
      "INSERT INTO card_counts (site_id, format_id, state, slot, cards) VALUES (?, ?, 'suspended', 0, ?)",
      [house.site, format, cards],
    );
    await pool.end();
    await people[0]!.do('PUT', `${at}/controllers/${controller}/formats`, { formats: ['26-8-16', format] });
    const changes = Array.from({ length: 40 }, (_, i) => {
      const state = i % 2 ? 'in stock' : 'lost';
      return people[1 + (i % 2)]!.call('PATCH', `${at}/cards/many-${i * 71}`, { revision: 1, state });
    });
    expect([...new Set((await Promise.all(changes)).map(({ status }) => status))]).toEqual([200]);
    await expect.poll(() => people[2]!.do('GET', `${at}/work`)).toEqual([]);
    const wrong = await rowsOn(
      1,
      `SELECT cards.id FROM cards LEFT JOIN controller_items ON controller_id = ? AND item = concat('card ', cards.id)
       WHERE format_id = ? AND NOT (wanted <=> if(state = 'in stock', NULL, cards.revision))`,
      [controller, format],
    );
    expect(wrong).toEqual([]);
  });

  it('a server whose node is killed goes on at another; the node comes back with all of it', async () => {
    const before = await holdersOn(1);
    const writing = write('Killed', 3, 8);
    await cluster.nodes[0]!.kill();
    const statuses = await writing;
    // Whoever was told that it was saved finds it; the rest were told that the database went, or that they do not know.
    const saved = statuses.filter((status) => status === 200).length;
    expect(statuses.filter((status) => ![200, 503].includes(status))).toEqual([]);
    expect(await holdersOn(1)).toBeGreaterThanOrEqual(before + saved);
    expect((await people[0]!.call('POST', `${at}/cardholders`, { name: 'After the kill' })).status).toBe(200);
    await cluster.nodes[0]!.restart();
    expect(await holdersOn(0)).toBe(await holdersOn(2));
    await expectWhole();
  });

  it('while a node has lost the others it refuses and says so; afterwards every server writes again', async () => {
    cluster.nodes[1]!.freeze();
    cluster.nodes[2]!.freeze();
    // The first node is alone, and notices.
    await expect
      .poll(async () => (await people[0]!.call('POST', `${at}/cardholders`, { name: 'Alone' })).status)
      .toBe(503);
    cluster.nodes[1]!.thaw();
    cluster.nodes[2]!.thaw();
    for (const person of people)
      await expect
        .poll(async () => (await person.call('POST', `${at}/cardholders`, { name: 'Together again' })).status)
        .toBe(200);
    expect([...new Set(await write('Again', 4, 3))]).toEqual([200]);
    expect(await holdersOn(0)).toBe(await holdersOn(1));
    await expectWhole();
  });
});
