/** A site of 500 controllers: what the list costs in statements, and that each is told as it is told alone. */
import { doorApi } from '@rawbits/api';
import { createPool } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type House, openHouse } from '../../testing/harness.ts';

const CONTROLLERS = 500;

describe('a site of 500 controllers', () => {
  let house: House;
  let site: string;
  beforeAll(async () => {
    house = await openHouse();
    ({ site } = house);
    const pool = createPool(house.databaseUrl);
    const rows = Array.from({ length: CONTROLLERS }, (_, i) => i);
    const card = await house.administrator
      .do('PUT', `/sites/${site}/formats/26-8-16`)
      .then(() =>
        house.administrator.do('POST', `/sites/${site}/cards`, { formatId: '26-8-16', facility: '1', number: '7' }),
      );
    await pool.query('INSERT INTO controllers (id, site_id, name, device, compares_facility, loaded_at) VALUES ?', [
      rows.map((i) => [
        `c${i}`,
        site,
        `Controller ${String(i).padStart(3, '0')}`,
        `d${i}`,
        true,
        i % 2 ? new Date() : null,
      ]),
    ]);
    const items = rows.flatMap((i) =>
      [`card ${card.id}`, ...(i % 3 === 0 ? ['format 26-8-16', 'facility compared'] : [])].map((item) => [
        `c${i}`,
        item,
        1,
      ]),
    );
    await pool.query('INSERT INTO controller_items (controller_id, item, wanted) VALUES ?', [items]);
    const jobs = rows.flatMap((i) =>
      [1, 2].map((day) => [
        `j${i}-${day}`,
        site,
        'load',
        `c${i}`,
        'done',
        '{}',
        '{}',
        'x',
        `2026-11-0${day}`,
        '2026-11-01',
        'x',
      ]),
    );
    await pool.query(
      'INSERT INTO jobs (id, site_id, kind, subject, state, input, memo, started_by, started_at, heard_at, carrier) VALUES ?',
      [jobs],
    );
    await pool.end();
  });
  afterAll(() => house?.close());

  it('is listed in some dozens of statements, and as each of them alone', async () => {
    const { $client } = house.server.app.db;
    const query = $client.query.bind($client);
    let statements = 0;
    $client.query = (...asked: Parameters<typeof query>) => {
      statements++;
      return query(...asked);
    };
    const all = await house.administrator.ask(doorApi.list, { site });
    $client.query = query;
    expect(all.length).toBe(CONTROLLERS);
    // Two for every fifty controllers, and some for all together; 2,090 when each was asked about alone.
    expect(statements).toBeGreaterThan(20);
    expect(statements).toBeLessThan(50);
    for (const i of [0, 1, 2, 3, 250, 498]) {
      const alone = await house.administrator.ask(doorApi.one, { site, id: `c${i}` });
      expect(all.find(({ id }) => id === `c${i}`)).toEqual(alone);
    }
    expect(all[3]).toMatchObject({
      standing: 'changes waiting',
      waitingCount: 3,
      waiting: [
        { change: 'add', what: 'format 26 bits, 8 + 16, the open format' },
        { change: 'add', what: 'card 1/7, in stock' },
        { change: 'add', what: 'whether the facility code is compared' },
      ],
      load: { id: 'j3-2' },
    });
    expect(all[2]).toMatchObject({ standing: 'never loaded', waitingCount: 1 });
  });
});
