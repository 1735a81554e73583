/** A sheet of 5,000 rows with bad ones: each told with its row, the good ones entered whole, the bad ones mended and sent again. */
import { type SheetRow, sheetApi } from '@rawbits/api';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { createPool, type Pool } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { furnish, type House, openHouse } from '../../testing/harness.ts';

describe('a sheet', () => {
  let house: House;
  let site: string;
  let pool: Pool;
  beforeAll(async () => {
    house = await openHouse();
    ({ site } = house);
    await furnish(house);
    pool = createPool(house.databaseUrl);
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });
  const admin = () => house.administrator;
  const sheet = (rows: SheetRow[]) => ({ formatId: '26-8-16', rows });
  const review = (rows: SheetRow[]) => admin().ask(sheetApi.review, { site }, sheet(rows));
  const enter = (rows: SheetRow[], good: number) =>
    admin().call('POST', `/sites/${site}/sheets`, { ...sheet(rows), good });
  const onFile = async (): Promise<number> => ((await pool.query('SELECT COUNT(*) AS n FROM cards')) as any)[0][0].n;

  /** Five thousand rows, every fifth with a holder, and twenty that cannot be. */
  const ROWS: SheetRow[] = Array.from({ length: 5000 }, (_, i) => ({
    row: i + 1,
    facility: '58',
    number: String(10_000 + i),
    ...(i % 5 === 0 && { holder: `Holder ${i / 5}`, department: 'Labs', state: 'active' as const }),
  }));
  const WRONG: Partial<SheetRow>[] = [
    { number: '65536' },
    { number: '1O024' },
    { number: '' },
    { facility: '256' },
    { facility: '' },
    { number: '10000' },
    { state: 'in stock', holder: 'Somebody' },
    { state: 'active', holder: '' },
    { validFrom: '2030-01-02T00:00:00.000Z', validTo: '2030-01-01T00:00:00.000Z' },
    { number: '-5' },
  ];
  for (let k = 0; k < 20; k++) Object.assign(ROWS[101 + 200 * k]!, WRONG[k % WRONG.length]);

  it('is reviewed row by row, entered, and its bad rows mended and sent again', async () => {
    const told = await review(ROWS);
    // The same wrong number twice is wrong each time; the second copy of a good one is what is refused.
    expect([told.good, told.bad.length]).toEqual([4980, 20]);
    expect(told.bad.map(({ row }) => row)).toEqual(Array.from({ length: 20 }, (_, k) => 102 + 200 * k));
    expect(told.bad[0]).toMatchObject({
      row: 102,
      message: expect.stringContaining('65535'),
      where: { field: 'number' },
    });
    expect(told.bad[5]!.message).toBe('Card 58/10000 stands in row 1, too.');
    expect([told.held, told.inStock, told.newHolders.count]).toEqual([1000, 3980, 1000]);
    expect(await onFile()).toBe(0);
    expect((await enter(ROWS, 4980)).body).toEqual({ cards: 4980, newHolders: 1000 });
    const [rows] = (await pool.query('SELECT number, bits FROM cards')) as any;
    const wrong = rows.filter(
      ({ number, bits }: { number: string; bits: string }) =>
        bits !== encode(catalogued('26-8-16')!, { facility: '58', number }).toBinary(),
    );
    expect([rows.length, wrong]).toEqual([4980, []]);
    const mended = told.bad.map(({ row }) => ({ row, facility: '58', number: String(40_000 + row) }));
    expect(await review(mended)).toMatchObject({ good: 20, bad: [] });
    expect((await enter(mended, 20)).status).toBe(200);
    expect(await onFile()).toBe(5000);
    const [counts] = (await pool.query('SELECT SUM(cards) AS n FROM card_counts')) as any;
    expect(Number(counts[0].n)).toBe(5000);
    const [entry] = (await admin().do('GET', `/sites/${site}/trail`)) as { action: string; after: object }[];
    expect(entry).toMatchObject({ action: 'sheet entered', after: { cards: 20 } });
  });

  it('names people as they are on file; several of one name are told apart by their department', async () => {
    for (const department of ['Labs', 'Dock'])
      await admin().do('POST', `/sites/${site}/cardholders`, { name: 'Åse Vik', department });
    const row = (number: string, more: Partial<SheetRow>): SheetRow => ({ row: 1, facility: '58', number, ...more });
    expect((await review([row('1', { holder: 'Åse Vik' })])).bad[0]!.message).toBe(
      'Several cardholders are called Åse Vik.',
    );
    const told = await review([row('1', { holder: 'Åse Vik', department: 'Dock' }), row('2', { holder: 'Holder 3' })]);
    expect([told.good, told.newHolders.count]).toEqual([2, 0]);
  });

  it('what came on file since the review stops it, and nothing of it is kept', async () => {
    const rows = [1, 2, 3].map((n) => ({ row: n, facility: '77', number: String(n) }));
    expect((await review(rows)).good).toBe(3);
    await admin().do('POST', `/sites/${site}/cards`, { formatId: '26-8-16', facility: '77', number: '2' });
    const before = await onFile();
    const { status, body } = await enter(rows, 3);
    expect([status, body.error.code]).toEqual([409, 'changed-meanwhile']);
    expect(await onFile()).toBe(before);
    expect((await review(rows)).bad).toMatchObject([{ row: 2, message: 'Card 77/2 is on file already, in stock.' }]);
  });

  it('two who send one sheet at once enter it once', async () => {
    const rows = Array.from({ length: 300 }, (_, i) => ({ row: i + 1, facility: '78', number: String(i) }));
    const answers = await Promise.all([enter(rows, 300), enter(rows, 300), enter(rows, 300)]);
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 409, 409]);
  });
});
