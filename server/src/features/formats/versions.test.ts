/** Versions, retiring, files of formats, and what proves a format. */
import { CATALOGUE } from '@rawbits/core/catalogue';
import { printLayoutLine } from '@rawbits/core/format';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { fromCsv } from '../../platform/workers/jobs.ts';
import { BOAT_BITS, furnish, type House, loadAndWait, openHouse } from '../../testing/harness.ts';
import { toCsv } from './exchange.ts';

const MOVED = '26 | 1 even 2-13 | 2-8 facility | 9-25 number | 26 odd 14-25';

describe('versions and files of formats', () => {
  let house: House;
  beforeAll(async () => {
    house = await openHouse();
  });
  afterAll(() => house.close());
  const version = (body: object) =>
    house.administrator.call('POST', '/formats/26-8-16/versions', {
      name: 'Moved',
      layout: MOVED,
      reason: 'box label',
      ...body,
    });

  it('of two who save a version at once, the second is told who was first, and nothing is lost', async () => {
    const [a, b] = await Promise.all([version({ basedOn: 1 }), version({ basedOn: 1, reason: 'data sheet' })]);
    expect([a.status, b.status].sort()).toEqual([200, 409]);
    const refused = a.status === 409 ? a : b;
    expect(refused.body.error).toMatchObject({
      code: 'changed-meanwhile',
      message: expect.stringContaining('Admin saved version 2 meanwhile'),
    });
    const versions = await house.administrator.do('GET', '/formats/26-8-16/versions');
    expect(versions.map((v: { version: number; layout: string }) => [v.version, v.layout])).toEqual([
      [2, MOVED],
      [1, printLayoutLine(CATALOGUE.find((f) => f.id === '26-8-16')!)],
    ]);
    expect((await version({ basedOn: 2, reason: '' })).body.error.where.field).toBe('reason');
  });

  it('a retired format cannot be taken up, and comes back with its history', async () => {
    const { administrator, site } = house;
    await administrator.do('POST', '/formats/33-7-24/retire', { reason: 'nobody has it' });
    const listed = await administrator.do('GET', `/sites/${site}/formats`);
    expect(listed.some((f: { format: { id: string } }) => f.format.id === '33-7-24')).toBe(false);
    expect((await administrator.call('PUT', `/sites/${site}/formats/33-7-24`)).body.error.code).toBe('retired');
    const back = await administrator.do('POST', '/formats/33-7-24/reinstate', { reason: 'found a box' });
    expect(back).toMatchObject({ retiredAt: null, version: 1 });
    await administrator.do('PUT', `/sites/${site}/formats/33-7-24`);
  });

  it('a file goes out and in again without changing anything, in every kind', async () => {
    for (const kind of ['json', 'csv', 'lines']) {
      const { text } = await house.administrator.do('GET', `/formats/export?kind=${kind}`);
      const review = await house.administrator.do('POST', '/formats/import', { kind, text, save: true });
      expect([kind, new Set(review.rows.map((r: { does: string }) => r.does))]).toEqual([kind, new Set(['nothing'])]);
    }
  });

  it('one bad row in 10,000: it is named, and nothing is saved', async () => {
    const lines = Array.from({ length: 10_000 }, (_, i) => `many-${i}\tMany ${i}\t40 | 1-${(i % 39) + 1} number`);
    lines[6543] = 'many-6543\tMany 6543\t40 | 1-41 number';
    const before = (await house.administrator.do('GET', '/formats')).length;
    const review = await house.administrator.do('POST', '/formats/import', {
      kind: 'lines',
      text: lines.join('\n'),
      save: true,
    });
    expect(review.saved).toBe(false);
    expect(review.problems).toEqual([
      expect.objectContaining({ code: 'past-end', where: expect.objectContaining({ row: 6544, field: 'spans.0.at' }) }),
    ]);
    expect((await house.administrator.do('GET', '/formats')).length).toBe(before);
  });

  it('an import adds and changes, all in one, as new versions', async () => {
    const text = `cliff\tCliff\t40 | 1-8 facility | 9-40 number\n33-7-24\tThirty-three\t33 | 2-8 facility | 9-33 number`;
    const review = await house.administrator.do('POST', '/formats/import', {
      kind: 'lines',
      text,
      save: true,
      reason: 'supplier’s list',
    });
    expect(review.rows.map((r: { id: string; does: string }) => [r.id, r.does])).toEqual([
      ['cliff', 'add'],
      ['33-7-24', 'change'],
    ]);
    const [newest] = await house.administrator.do('GET', '/formats/33-7-24/versions');
    expect(newest).toMatchObject({ version: 2, reason: 'supplier’s list', format: { source: 'from memory' } });
  });

  it('a spreadsheet never runs a cell as a formula', () => {
    const rows = [['=1+1', '+44', '-1', '@x', 'plain', '\tx', "it's"]];
    const csv = toCsv(rows);
    for (const cell of csv.trim().split(',')) expect(cell.replace(/^"/, '')).not.toMatch(/^[=+\-@\t]/);
    expect(fromCsv(csv)[0]).toEqual(rows[0]);
  });

  it('a card that opens a door proves its format once, however often it is presented', async () => {
    const { administrator, site } = house;
    const { controller, door } = await furnish(house);
    const at = `/sites/${site}`;
    await administrator.do('PUT', `${at}/formats/37-16-19`);
    await administrator.do('PUT', `${at}/controllers/${controller}/formats`, { formats: ['37-16-19'] });
    const holder = await administrator.do('POST', `${at}/cardholders`, { name: 'H' });
    await administrator.do('POST', `${at}/cards`, {
      formatId: '37-16-19',
      facility: '2214',
      number: '118406',
      state: 'active',
      holderId: holder.id,
    });
    await loadAndWait(administrator, `${at}/controllers/${controller}`);
    for (let i = 0; i < 2; i++) {
      const presented = await administrator.do('POST', `${at}/rig/presentations`, { card: 'boat', reader: door });
      expect(presented.outcome).toBe('opened');
    }
    const formats = await administrator.do('GET', `${at}/formats`);
    const format = formats.find((f: { format: { id: string } }) => f.format.id === '37-16-19');
    expect([format.provenOn, BOAT_BITS.length]).toEqual([1, 37]);
  });
});
