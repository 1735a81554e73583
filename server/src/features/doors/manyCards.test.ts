/** Changes of many cards go in pieces: nobody waits for them, any server goes on with them, and half of one is acted on by nobody. */
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { createPool, type Pool, type RowDataPacket } from 'mysql2/promise';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { furnish, type House, openHouse, Person } from '../../testing/harness.ts';
import { AT_ONCE } from './marking.ts';

const FORMAT = catalogued('37-16-19')!;
const CARDS = AT_ONCE + 1500;
const IN_STOCK = 500;

describe('changes of many cards', () => {
  let house: House;
  let pool: Pool;
  let at: string;
  let controller: string;
  beforeAll(async () => {
    house = await openHouse();
    pool = createPool(house.databaseUrl);
    at = `/sites/${house.site}`;
    ({ controller } = await furnish(house));
    await house.administrator.do('PUT', `${at}/formats/${FORMAT.id}`);
    const rows = Array.from({ length: CARDS }, (_, i) => {
      const number = String(1000 + i);
      const state = i < IN_STOCK ? 'in stock' : 'suspended';
      const bits = encode(FORMAT, { facility: '7', number }).toBinary();
      return [`card-${i}`, house.site, FORMAT.id, '7', number, '', bits, state, '', 1, new Date(1.7e12 + i)];
    });
    await pool.query(
      'INSERT INTO cards (id, site_id, format_id, facility, number, printed, bits, state, notes, revision, created_at) VALUES ?',
      [rows],
    );
    await pool.query(
      "INSERT INTO card_counts (site_id, format_id, state, slot, cards) VALUES (?, ?, 'in stock', 0, ?), (?, ?, 'suspended', 0, ?)",
      [house.site, FORMAT.id, IN_STOCK, house.site, FORMAT.id, CARDS - IN_STOCK],
    );
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });
  beforeEach(() => idle());

  const work = (person = house.administrator) => person.do('GET', `${at}/work`);
  const idle = () => expect.poll(() => work()).toEqual([]);
  const accept = (...formats: string[]) =>
    house.administrator.do('PUT', `${at}/controllers/${controller}/formats`, { formats });
  const wanted = async (): Promise<{ cards: number; revisions: number }> => {
    const [rows] = await pool.query<RowDataPacket[]>(
      `SELECT count(*) AS cards, coalesce(sum(wanted = cards.revision), 0) AS revisions FROM controller_items
       JOIN cards ON item = concat('card ', cards.id) WHERE controller_id = ? AND wanted IS NOT NULL`,
      [controller],
    );
    return { cards: Number(rows[0]!.cards), revisions: Number(rows[0]!.revisions) };
  };
  const ALL = { cards: CARDS - IN_STOCK, revisions: CARDS - IN_STOCK };

  it('what a controller accepts is saved at once, its cards are marked after it, and it is not loaded meanwhile', async () => {
    await accept(FORMAT.id);
    expect(await work()).toMatchObject([{ kind: 'marking', startedBy: 'Admin', total: CARDS - IN_STOCK }]);
    const refused = await house.administrator.call('POST', `${at}/controllers/${controller}/loads`);
    expect([refused.status, refused.body.error.code]).toEqual([409, 'being-marked']);
    // Cards go on being changed beside it: which of the two comes first does not matter.
    for (const number of [1, IN_STOCK + 7, CARDS - 1])
      await house.administrator.do('PATCH', `${at}/cards/card-${number}`, { revision: 1, notes: 'looked at' });
    await idle();
    expect(await wanted()).toEqual(ALL);
  });

  it('a change of mind goes before: what is marked in the end is what was said last', async () => {
    await accept('26-8-16').catch(() => {});
    const run = await house.administrator.do('POST', `${at}/dry-runs`, {
      kind: 'accept',
      controller,
      formats: ['26-8-16'],
    });
    await expect.poll(async () => (await house.administrator.do('GET', `${at}/dry-runs/${run.id}`)).state).toBe('done');
    const { result } = await house.administrator.do('GET', `${at}/dry-runs/${run.id}`);
    const refuses = result.cards['newly refused'];
    await house.administrator.do('POST', `${at}/dry-runs/${run.id}/apply`, { refuses });
    await accept('26-8-16', FORMAT.id);
    expect(await work()).toHaveLength(1);
    await idle();
    expect(await wanted()).toEqual(ALL);
  });

  it('another server goes on with it where the first one stopped', async () => {
    const run = await house.administrator.do('POST', `${at}/dry-runs`, { kind: 'accept', controller, formats: [] });
    await expect.poll(async () => (await house.administrator.do('GET', `${at}/dry-runs/${run.id}`)).state).toBe('done');
    const { result } = await house.administrator.do('GET', `${at}/dry-runs/${run.id}`);
    const first = await house.another();
    const there = new Person(first.port);
    there.cookie = house.administrator.cookie;
    const refuses = result.cards['newly refused'];
    await there.do('POST', `${at}/dry-runs/${run.id}/apply`, { refuses });
    await first.close();
    await pool.query("UPDATE jobs SET heard_at = '2000-01-01' WHERE kind = 'marking' AND state = 'running'");
    await house.server.housekeep();
    await idle();
    expect(await wanted()).toEqual({ cards: 0, revisions: 0 });
    await accept(FORMAT.id);
    await idle();
    expect(await wanted()).toEqual(ALL);
  });

  it('cards follow their facility code in pieces; until all have, nothing that rests on them is loaded or saved', async () => {
    const { administrator } = house;
    const code = await administrator.do('POST', `${at}/facility-codes`, {
      formatId: FORMAT.id,
      code: '7',
      name: 'Long box',
    });
    const dry = async (to: string) => {
      const run = await administrator.do('POST', `${at}/dry-runs`, { kind: 'facility code', id: code.id, code: to });
      await expect.poll(async () => (await administrator.do('GET', `${at}/dry-runs/${run.id}`)).state).toBe('done');
      return administrator.do('GET', `${at}/dry-runs/${run.id}`);
    };
    const save = (run: any) =>
      administrator.call('POST', `${at}/dry-runs/${run.id}/apply`, { refuses: run.result.cards['newly refused'] });
    // One card there already: refused whole, before anything is moved.
    await administrator.do('POST', `${at}/cards`, { formatId: FORMAT.id, facility: '9', number: '1003' });
    const met = await save(await dry('9'));
    expect([met.status, met.body.error.message]).toEqual([409, expect.stringContaining('9/1003 is on file')]);
    expect(await work()).toEqual([]);
    const run = await dry('8');
    expect((await save(run)).status).toBe(200);
    expect(await work()).toMatchObject([{ kind: 'recoding', what: 'Moving cards from facility code 7 to 8' }]);
    const loading = await administrator.call('POST', `${at}/controllers/${controller}/loads`);
    expect([loading.status, loading.body.error.code]).toEqual([409, 'being-moved']);
    // One where another is about to come would stop the move half done.
    const inTheWay = { formatId: FORMAT.id, facility: '8', number: String(1000 + CARDS - 1) };
    const adding = await administrator.call('POST', `${at}/cards`, inTheWay);
    expect([adding.status, adding.body.error.code]).toEqual([409, 'being-moved']);
    await idle();
    const [rows] = await pool.query<RowDataPacket[]>(
      'SELECT facility, count(*) AS cards FROM cards WHERE format_id = ? GROUP BY facility ORDER BY facility',
      [FORMAT.id],
    );
    expect(rows.map(({ facility, cards }) => [facility, cards])).toEqual([
      ['8', CARDS],
      ['9', 1],
    ]);
    const { cards, revisions } = await wanted();
    expect(cards).toBe(revisions);
    expect(await administrator.do('GET', `${at}/formats/${FORMAT.id}/use`)).toMatchObject({
      cards: CARDS + 1,
      facilities: [
        { facility: '8', cards: CARDS, least: '1000', greatest: String(1000 + CARDS - 1) },
        { facility: '9', cards: 1, least: '1003', greatest: '1003' },
      ],
    });
  });

  it('a move that meets a card put there meanwhile ends and says so: nothing waits for it for good', async () => {
    const move = JSON.stringify({ formatId: FORMAT.id, from: '8', to: '6' });
    await pool.query(
      "INSERT INTO cards (id, site_id, format_id, facility, number, printed, state, notes, revision, created_at) VALUES ('in-the-way', ?, ?, '6', '1000', '', 'in stock', '', 1, NOW(3))",
      [house.site, FORMAT.id],
    );
    // As a server leaves it that stopped: another takes it up.
    await pool.query(
      `INSERT INTO jobs (id, site_id, kind, slot, state, input, memo, started_by, started_at, heard_at, carrier)
       VALUES ('moving', ?, 'recoding', 'moving', 'running', ?, '{}', 'Admin', NOW(3), '2000-01-01', 'nobody')`,
      [house.site, move],
    );
    await house.server.housekeep();
    const ended = async () =>
      (await pool.query<RowDataPacket[]>("SELECT state, message FROM jobs WHERE id = 'moving'"))[0][0];
    await expect.poll(ended).toMatchObject({
      state: 'failed',
      message: expect.stringContaining('A card was put on file meanwhile'),
    });
    expect(await work()).toEqual([]);
  });
});
