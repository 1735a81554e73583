/** A review at a large site: what it asks of the database, that it lets others in between, and that it ends with whoever asked. */
import { accessApi } from '@rawbits/api';
import { createPool } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type House, openHouse } from '../../testing/harness.ts';

const [DOORS, GROUPS, HOLDERS] = [400, 1200, 2400];
const OTHERS = ['s0', 's1', 's2', 's4', 's5', 's6', 's7'];

describe('a review at a large site', () => {
  let house: House;
  let site: string;
  let statements = 0;
  /** How often people were counted: it comes after all is worked out. */
  let counted = 0;
  beforeAll(async () => {
    house = await openHouse();
    ({ site } = house);
    const pool = createPool(house.databaseUrl);
    const many = (count: number, row: (i: number) => unknown[]) => Array.from({ length: count }, (_, i) => row(i));
    const insert = async (what: string, rows: unknown[][]) => {
      for (let low = 0; low < rows.length; low += 1000)
        await pool.query(`INSERT INTO ${what} VALUES ?`, [rows.slice(low, low + 1000)]);
    };
    await insert(
      'controllers (id, site_id, name, device, compares_facility)',
      many(DOORS / 4, (i) => [`c${i}`, site, `C ${i}`, `device-${i}`, true]),
    );
    await insert(
      'doors (id, site_id, controller_id, name, by_groups)',
      many(DOORS, (i) => [`d${i}`, site, `c${i >> 2}`, `Door ${i}`, true]),
    );
    await insert(
      'readers (id, site_id, name, kind, device, controller_id, door_id, way)',
      many(DOORS, (i) => [`r${i}`, site, `R ${i}`, 'door', `r-${i}`, `c${i >> 2}`, `d${i}`, 'in']),
    );
    await insert(
      'schedules (id, site_id, name, periods, on_holidays)',
      many(8, (i) => {
        const periods = [{ days: [1, 2, 3, 4, 5], from: `0${i}:00`, to: `1${i}:30` }];
        return [`s${i}`, site, `Schedule ${i}`, JSON.stringify(periods), '[]'];
      }),
    );
    // The groups by the fourth schedule have the first hundred doors; all others the rest.
    await insert(
      'access_groups (id, site_id, name, rights)',
      many(GROUPS, (i) => {
        const isFirst = i % 8 === 3;
        const doors = Array.from({ length: 20 }, (_, k) => ({
          door: `d${isFirst ? (i + k) % 100 : 100 + ((i * 7 + k * 13) % (DOORS - 100))}`,
          ways: ['in'],
        }));
        return [`g${i}`, site, `Group ${i}`, JSON.stringify([{ doors, schedule: isFirst ? 's3' : OTHERS[i % 7] }])];
      }),
    );
    await insert(
      'group_sets (id, site_id, `groups`)',
      many(GROUPS, (i) => [`set${i}`, site, JSON.stringify([`g${i}`])]),
    );
    await insert(
      'cardholders (id, site_id, name, department, group_set_id)',
      many(HOLDERS, (i) => [`h${i}`, site, `Person ${i}`, '', `set${i % GROUPS}`]),
    );
    await pool.end();
    const { $client } = house.server.app.db;
    const query = $client.query.bind($client);
    $client.query = (...asked: Parameters<typeof query>) => {
      statements++;
      if (JSON.stringify(asked[0]).includes('row_number')) counted++;
      return query(...asked);
    };
  });
  afterAll(() => house?.close());

  const wider = { kind: 'schedule', id: 's3', name: 'Schedule 3', onHolidays: [] } as const;
  const change = { ...wider, periods: [{ days: [1, 2, 3, 4, 5], from: '03:00', to: '14:30' }] };

  it('finds every door that it touches and no other, in a few statements', async () => {
    statements = 0;
    const review = await house.administrator.do('POST', `/sites/${site}/access/reviews`, { change });
    expect(statements).toBeLessThan(40);
    expect(review.gains.length).toBe(100);
    expect(review.gains[0]).toMatchObject({ when: 'Mon–Fri 13:30–14:30', later: 60, people: 0 });
    expect(review.losses).toEqual([]);
    // Four doors a controller.
    expect(review.controllers.length).toBe(25);
  });

  it('others are answered meanwhile, and it ends with whoever asked', async () => {
    const all = await house.administrator.ask(accessApi.all, { site });
    const holidays = [{ name: 'Long night', date: '2026-12-21', yearly: true }];
    const asked = { change: { kind: 'holidays', holidays, revision: all.calendar.revision } };
    counted = 0;
    let done = false;
    const whole = house.administrator.do('POST', `/sites/${site}/access/reviews`, asked).finally(() => {
      done = true;
    });
    let others = 0;
    while (!done) {
      await house.administrator.do('GET', '/session');
      others++;
    }
    // Nobody was let in while it worked: one came before, one after.
    expect(others).toBeGreaterThan(5);
    expect((await whole).losses.length).toBeGreaterThan(300);

    const perReview = counted;
    expect(perReview).toBeGreaterThan(0);
    const abort = new AbortController();
    const gone = fetch(`http://127.0.0.1:${house.server.port}/api/sites/${site}/access/reviews`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', cookie: house.administrator.cookie },
      body: JSON.stringify(asked),
      signal: abort.signal,
    });
    // It has read what there is, and works on it.
    statements = 0;
    await expect.poll(() => statements, { interval: 5 }).toBeGreaterThan(8);
    abort.abort();
    await expect(gone).rejects.toThrow();
    counted = 0;
    // Two more, one after the other: the first would have come to its end long before.
    for (let i = 0; i < 2; i++) await house.administrator.do('POST', `/sites/${site}/access/reviews`, asked);
    expect(counted).toBe(2 * perReview);
  });
});
