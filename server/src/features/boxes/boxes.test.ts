/** Boxes at the API: reviewed against what is on file one by one, entered whole or not at all, taken back. */
import { type BoxReview, type BoxWork, boxApi, cardApi, cardholderApi, numberApi } from '@rawbits/api';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { createPool, type Pool } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { eventually, furnish, type House, openHouse } from '../../testing/harness.ts';

const OPEN_26 = catalogued('26-8-16')!;
const label = (over: object = {}) => ({
  name: 'Green fobs',
  formatId: '26-8-16',
  facility: '58',
  first: '1000',
  last: '1199',
  ...over,
});

describe('boxes', () => {
  let house: House;
  let site: string;
  let pool: Pool;
  let controller: string;
  beforeAll(async () => {
    house = await openHouse();
    ({ site } = house);
    ({ controller } = await furnish(house));
    pool = createPool(house.databaseUrl);
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });
  const admin = () => house.administrator;
  const review = (box: object): Promise<BoxReview> => admin().ask(boxApi.review, { site }, box as never);
  const ended = (work: BoxWork): Promise<BoxWork> =>
    eventually(
      () => admin().ask(boxApi.work, { site, id: work.id }),
      ({ state }) => state !== 'running',
    );
  const enter = async (box: object, more: object = {}) => {
    const { seen } = await review(box);
    return ended(await admin().ask(boxApi.enter, { site }, { ...box, seen, ...more } as never));
  };
  const takeBack = async (id: string) => {
    const { revision } = await admin().ask(boxApi.one, { site, id });
    return admin().call('DELETE', `/sites/${site}/boxes/${id}?revision=${revision}`);
  };
  const onFile = async () => (await pool.query('SELECT COUNT(*) AS n FROM cards'))[0] as { n: number }[];

  it('is entered from its label: every card with the bits that it will deliver, in stock, one entry in the record', async () => {
    const told = await review(label());
    expect(told).toMatchObject({ count: 200, fresh: 200, onFile: { cards: 0 }, boxes: [], below: null, above: null });
    expect(told.first).toEqual({
      number: '1000',
      printed: '1000',
      bits: encode(OPEN_26, { facility: '58', number: '1000' }).toBinary(),
    });
    const work = await enter(label());
    expect(work).toMatchObject({ state: 'done', done: 200, total: 200, does: 'enter' });
    const { cards, total } = await admin().ask(cardApi.list, { site }, undefined);
    expect([cards.length, total]).toEqual([100, 200]);
    // Of one moment as they are, they stand in their order.
    expect(cards.map(({ number }) => Number(number))).toEqual(Array.from({ length: 100 }, (_, i) => 1000 + i));
    const [rows] = (await pool.query(
      'SELECT number, bits, state, box_id AS box FROM cards ORDER BY number_key',
    )) as any;
    for (const [i, row] of rows.entries())
      expect(row).toEqual({
        number: String(1000 + i),
        bits: encode(OPEN_26, { facility: '58', number: String(1000 + i) }).toBinary(),
        state: 'in stock',
        box: work.box,
      });
    const [entry] = (await admin().do('GET', `/sites/${site}/trail`)) as { action: string; after: object }[];
    expect(entry).toMatchObject({ action: 'box entered', after: { first: '1000', last: '1199', entered: 200 } });
    expect(await admin().ask(boxApi.one, { site, id: work.box! })).toMatchObject({
      count: 200,
      states: { 'in stock': 200 },
    });
  });

  it('entered again, or overlapping, it says what it meets; what is on file can be left out', async () => {
    const again = await review(label());
    expect([again.fresh, again.onFile.cards, again.onFile.states]).toEqual([0, 200, { 'in stock': 200 }]);
    expect(again.onFile.runs).toEqual([{ from: '1000', to: '1199', cards: 200 }]);
    expect(again.boxes).toMatchObject([{ name: 'Green fobs', from: '1000', to: '1199' }]);
    expect(await enter(label())).toMatchObject({
      state: 'failed',
      message: expect.stringContaining('200 of these cards are on file already'),
    });
    await admin().ask(cardApi.add, { site }, { formatId: '26-8-16', facility: '58', number: '1305' });
    const across = label({ name: 'Across', first: '1150', last: '1349' });
    expect(await review(across)).toMatchObject({
      fresh: 149,
      onFile: {
        cards: 51,
        runs: [
          { from: '1150', to: '1199', cards: 50 },
          { from: '1305', to: '1305', cards: 1 },
        ],
      },
      boxes: [{ from: '1150', to: '1199' }],
    });
    const work = await enter(across, { leaveOut: true });
    expect((await admin().ask(boxApi.one, { site, id: work.box! })).states).toEqual({ 'in stock': 149 });
    expect((await onFile())[0]!.n).toBe(350);
  });

  it('names its neighbours and the numbers between them', async () => {
    const told = await review(label({ first: '1400', last: '1449' }));
    expect(told).toMatchObject({
      below: { name: 'Across', last: '1349', between: { from: '1350', to: '1399' } },
      above: null,
    });
    expect((await review(label({ first: '950', last: '999' }))).above).toMatchObject({ first: '1000', between: null });
  });

  it('says where its cards would be one with others: the same bits, and the same number where the code is ignored', async () => {
    await admin().do('PUT', `/sites/${site}/formats/26-0-24`);
    // Code 58 and number 1500 in the open format, and that long number in the format without a code: the same bits.
    const number = String((58 << 16) + 1500);
    await admin().ask(cardApi.add, { site }, { formatId: '26-0-24', facility: null, number });
    await admin().ask(cardApi.add, { site }, { formatId: '26-8-16', facility: '77', number: '1501' });
    const box = label({ first: '1490', last: '1509' });
    expect((await review(box)).sameNumber.cards).toBe(0);
    await pool.query('UPDATE controllers SET compares_facility = FALSE WHERE id = ?', [controller]);
    const told = await review(box);
    expect(told.sameBits).toMatchObject({ cards: 1, examples: [{ formatId: '26-0-24', number }] });
    expect(told.sameNumber).toMatchObject({
      cards: 1,
      controllers: ['Shed'],
      examples: [{ facility: '77', number: '1501' }],
    });
    await pool.query('UPDATE controllers SET compares_facility = TRUE WHERE id = ?', [controller]);
  });

  it('counts every card that delivers the same bits, past the ten that are shown', async () => {
    // Code 59, numbers 100 to 111 and 1000 to 1004, as the format of one long number has them.
    const numbers = [
      ...Array.from({ length: 12 }, (_, i) => 100 + i),
      ...Array.from({ length: 5 }, (_, i) => 1000 + i),
    ];
    for (const number of numbers)
      await admin().ask(
        cardApi.add,
        { site },
        { formatId: '26-0-24', facility: null, number: String((59 << 16) + number) },
      );
    const told = await review(label({ facility: '59', first: '0', last: '1999' }));
    expect([told.sameBits.cards, told.sameBits.examples.length]).toEqual([17, 10]);
  });

  it('reviews agree with counting one by one, on random stocks', async () => {
    const facility = '91';
    const there = new Set<number>();
    let seed = 7;
    const draw = (below: number) => {
      seed = (seed * 1103515245 + 12345) % 2147483648;
      return seed % below;
    };
    for (let i = 0; i < 40; i++) {
      const number = draw(120);
      if (there.has(number)) continue;
      there.add(number);
      await admin().ask(cardApi.add, { site }, { formatId: '26-8-16', facility, number: String(number) });
    }
    for (let i = 0; i < 25; i++) {
      const first = draw(120);
      const last = first + draw(40);
      const told = await review(label({ facility, first: String(first), last: String(last) }));
      const met = [...there].filter((n) => n >= first && n <= last);
      expect([told.onFile.cards, told.fresh]).toEqual([met.length, last - first + 1 - met.length]);
      const listed = told.onFile.runs.flatMap(({ from, to }) =>
        Array.from({ length: Number(to) - Number(from) + 1 }, (_, k) => Number(from) + k),
      );
      expect(listed).toEqual(met.sort((a, b) => a - b));
    }
    // The same stock on its map: every part holds what counting finds, and the free runs are free and the lowest.
    const map = await admin().do('GET', `/sites/${site}/numbers/map?format=26-8-16&facility=91&from=0&to=199&parts=13`);
    for (let at = 0; at < map.count; at++) {
      const inPart = [...there].filter((n) => Math.floor(n / Number(map.size)) === at).length;
      const told = map.parts.find((part: { at: number }) => part.at === at)?.states['in stock'] ?? 0;
      expect([at, told]).toEqual([at, inPart]);
    }
    for (const count of [1, 2, 5, 9, 30]) {
      const { free } = await admin().do(
        'GET',
        `/sites/${site}/numbers/free?format=26-8-16&facility=91&from=0&count=${count}`,
      );
      const isFree = (from: number) => Array.from({ length: count }, (_, i) => from + i).every((n) => !there.has(n));
      let lowest = 0;
      while (!isFree(lowest)) lowest++;
      expect([count, free]).toEqual([count, { from: String(lowest), to: String(lowest + count - 1) }]);
    }
  });

  it('what to order: codes of which fewer are left than asked, with the run after all that is on file', async () => {
    const orders = (query: string): Promise<any[]> => admin().do('GET', `/sites/${site}/numbers/to-order?${query}`);
    const [rows] = (await pool.query(
      `SELECT box.format_id AS format, box.facility, MAX(LENGTH(card.number)) AS digits,
         COUNT(DISTINCT IF(card.state = 'in stock', card.id, NULL)) AS left_over, MAX(CAST(card.number AS UNSIGNED)) AS last
       FROM (SELECT DISTINCT format_id, facility FROM boxes) box
       LEFT JOIN cards card ON card.format_id = box.format_id AND card.facility = box.facility
       GROUP BY box.format_id, box.facility`,
    )) as any;
    for (const fewer of [1, 5, 60, 5000]) {
      const wanted = rows.filter(({ left_over }: any) => Number(left_over) < fewer);
      const found = await orders(`fewer=${fewer}&count=7`);
      expect(found.map(({ formatId, facility, inStock }) => `${formatId} ${facility} ${inStock}`).sort()).toEqual(
        wanted.map(({ format, facility, left_over }: any) => `${format} ${facility || null} ${left_over}`).sort(),
      );
      for (const { formatId, facility, run } of found) {
        const { last } = rows.find((row: any) => row.format === formatId && (row.facility || null) === facility);
        if (run) expect(Number(run.from)).toBeGreaterThan(Number(last));
        if (run) expect(Number(run.to) - Number(run.from)).toBe(6);
      }
    }
    expect((await admin().call('GET', `/sites/${site}/numbers/to-order?fewer=0`)).status).toBe(422);
  });

  it('the next free run passes boxes, reservations and cards', async () => {
    await admin().do('POST', `/sites/${site}/facility-codes`, {
      code: '58',
      name: 'Main',
      reserved: [{ from: '1350', to: '1360', note: 'fuel dock' }],
    });
    const free = (from: string, count: number) =>
      admin().do('GET', `/sites/${site}/numbers/free?format=26-8-16&facility=58&from=${from}&count=${count}`);
    expect((await free('1000', 50)).free).toEqual({ from: '1361', to: '1410' });
    expect((await free('0', 1000)).free).toEqual({ from: '0', to: '999' });
    expect(await free('65000', 1000)).toEqual({ free: null, searchedTo: '65535' });
    expect((await review(label({ first: '1355', last: '1400' }))).reserved).toMatchObject([{ note: 'fuel dock' }]);
    const lines = await admin().ask(numberApi.lines, { site });
    expect(lines.find(({ facility }) => facility === '58')).toMatchObject({ least: '1000', greatest: '1349' });
  });

  it('is taken back in one step as long as none of it was issued', async () => {
    const work = await enter(label({ name: 'Brief', first: '3000', last: '3049' }));
    const before = (await onFile())[0]!.n;
    const holder = await admin().ask(cardholderApi.add, { site }, { name: 'Åse Vik' });
    const { cards } = await admin().do('GET', `/sites/${site}/cards?search=58/3001`);
    const issue = (change: object) =>
      admin().do('PATCH', `/sites/${site}/cards/${cards[0].id}`, { revision: cards[0].revision, ...change });
    const issued = await issue({ state: 'active', holderId: holder.id });
    const refused = await takeBack(work.box!);
    expect([refused.status, refused.body.error.code]).toEqual([409, 'box-issued']);
    expect((await admin().ask(boxApi.one, { site, id: work.box! })).states).toEqual({ 'in stock': 49, active: 1 });
    cards[0].revision = issued.revision;
    await issue({ state: 'in stock', holderId: null });
    const back = await takeBack(work.box!);
    expect(back.status).toBe(200);
    expect(await ended(back.body)).toMatchObject({ state: 'done', does: 'take back', box: null });
    expect((await onFile())[0]!.n).toBe(before - 50);
    expect((await admin().call('GET', `/sites/${site}/boxes/${work.box}`)).status).toBe(404);
    const [counts] = await pool.query('SELECT COUNT(*) AS n FROM box_counts WHERE box_id = ?', [work.box]);
    expect(counts).toEqual([{ n: 0 }]);
  });

  it('a card that is entered alone within a label is of its box', async () => {
    const { boxes } = await admin().ask(boxApi.list, { site });
    const across = boxes.find(({ name }) => name === 'Green fobs')!;
    const { cards } = await admin().do('GET', `/sites/${site}/cards?search=58/1010`);
    await admin().do('DELETE', `/sites/${site}/cards/${cards[0].id}?revision=${cards[0].revision}`);
    expect((await admin().ask(boxApi.one, { site, id: across.id })).states).toEqual({ 'in stock': 199 });
    await admin().ask(cardApi.add, { site }, { formatId: '26-8-16', facility: '58', number: '1010' });
    expect((await admin().ask(boxApi.one, { site, id: across.id })).states).toEqual({ 'in stock': 200 });
  });

  it('what came on file since the review, and labels that cannot be, are refused with their field', async () => {
    const box = label({ name: 'Late', first: '5000', last: '5099' });
    const { seen } = await review(box);
    await admin().ask(cardApi.add, { site }, { formatId: '26-8-16', facility: '58', number: '5007' });
    const late = await admin().call('POST', `/sites/${site}/boxes`, { ...box, seen });
    expect([late.status, late.body.error.code]).toEqual([409, 'changed-meanwhile']);
    for (const [over, field] of [
      [{ first: '65500', last: '65600' }, 'last'],
      [{ first: '9', last: '3' }, 'last'],
      [{ facility: '300' }, 'facility'],
      [{ formatId: '48-22-23' }, 'formatId'],
      [{ first: '1x' }, 'first'],
      [{ print: { kind: 'run', first: '3', order: 'down' } }, 'print'],
    ] as const) {
      const { status, body } = await admin().call('POST', `/sites/${site}/box-review`, label(over));
      expect([status, body.error.where?.field]).toEqual([422, field]);
    }
  });

  it('two boxes at once: one is entered, the other is told; sixty of one box enter it once', async () => {
    const box = label({ name: 'Once', first: '7000', last: '7499' });
    const { seen } = await review(box);
    const all = await Promise.all(
      Array.from({ length: 60 }, () => admin().call('POST', `/sites/${site}/boxes`, { ...box, seen })),
    );
    const begun = all.filter(({ status }) => status === 200);
    expect(new Set(all.map(({ status }) => status))).toEqual(new Set([200, 409]));
    const states = await Promise.all(begun.map(({ body }) => ended(body)));
    expect(states.filter(({ state }) => state === 'done').length).toBe(1);
    const [rows] = await pool.query(
      "SELECT COUNT(*) AS n FROM cards WHERE facility = '58' AND number BETWEEN 7000 AND 7499",
    );
    expect(rows).toEqual([{ n: 500 }]);
  });

  it('cancelled, or whose server was lost in the middle, it leaves nothing half done', async () => {
    const before = (await onFile())[0]!.n;
    const box = label({ name: 'Great', facility: '60', first: '0', last: '19999' });
    const { seen } = await review(box);
    const cancelled = await admin().ask(boxApi.enter, { site }, { ...box, seen } as never);
    await admin().ask(boxApi.cancel, { site, id: cancelled.id });
    await eventually(onFile, ([row]) => row!.n === before);
    expect((await admin().ask(boxApi.work, { site, id: cancelled.id })).state).toBe('cancelled');
    // A second server takes a job over whose server fell silent, and enters the whole box, once.
    const lost = await admin().ask(boxApi.enter, { site }, { ...box, seen } as never);
    const second = await house.another();
    await pool.query("UPDATE jobs SET carrier = 'nobody', heard_at = '2000-01-01' WHERE id = ?", [lost.id]);
    await second.app.jobs.takeUpLost();
    expect((await ended(lost)).state).toBe('done');
    expect((await onFile())[0]!.n).toBe(before + 20_000);
    // More than are taken apart at once: counted part by part they come to the same.
    const map = await admin().do(
      'GET',
      `/sites/${site}/numbers/map?format=26-8-16&facility=60&from=0&to=65535&parts=7`,
    );
    const whole = map.parts.map((part: { states: object }) => Object.values(part.states).reduce((a, b) => a + b, 0));
    expect([map.size, whole]).toEqual(['9363', [9363, 9363, 1274]]);
    const [counts] = await pool.query("SELECT SUM(cards) AS n FROM card_counts WHERE format_id = '26-8-16'");
    const [there] = await pool.query("SELECT COUNT(*) AS n FROM cards WHERE format_id = '26-8-16'");
    expect(Number((counts as { n: string }[])[0]!.n)).toBe((there as { n: number }[])[0]!.n);
  });

  it('is of its own site, and viewers enter none', async () => {
    const { boxes } = await admin().ask(boxApi.list, { site });
    const other = (await admin().do('POST', '/sites', { name: 'Elsewhere', shortName: 'Elsewhere' })).id;
    expect((await admin().call('GET', `/sites/${other}/boxes/${boxes[0]!.id}`)).status).toBe(404);
    const viewer = await house.person('vera', 'viewer');
    expect((await viewer.call('POST', `/sites/${site}/box-review`, label())).status).toBe(403);
    expect((await viewer.call('GET', `/sites/${site}/boxes?limit=2`)).body.boxes.length).toBe(2);
  });

  it('pages follow one another without a gap', async () => {
    const whole = (await admin().ask(boxApi.list, { site })).boxes.map(({ id }) => id);
    const paged: string[] = [];
    for (let next: string | null = ''; next !== null; ) {
      const page: any = await admin().do('GET', `/sites/${site}/boxes?limit=2${next && `&after=${next}`}`);
      paged.push(...page.boxes.map(({ id }: { id: string }) => id));
      next = page.next;
    }
    expect(paged).toEqual(whole);
  });
});
