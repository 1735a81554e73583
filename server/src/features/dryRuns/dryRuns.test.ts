/** Dry runs at the API: exact counts, cancel, saving only what was shown. */
import { randomBytes } from 'node:crypto';
import { decide } from '@rawbits/core/access';
import { Bits } from '@rawbits/core/bits';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { parseLayoutLine } from '@rawbits/core/format';
import { createPool, type Pool } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { eventually, furnish, type House, openHouse } from '../../testing/harness.ts';

const OPEN_26 = catalogued('26-8-16')!;
const MOVED = '26 | 1 even 2-13 | 2-8 facility | 9-24 number | 26 odd 14-25';

describe('dry runs', () => {
  let house: House;
  let at: string;
  let controller: string;
  let pool: Pool;
  beforeAll(async () => {
    house = await openHouse();
    at = `/sites/${house.site}`;
    ({ controller } = await furnish(house));
    pool = createPool(house.databaseUrl);
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });

  const ran = async (change: object) => {
    const { id } = await house.administrator.do('POST', `${at}/dry-runs`, change);
    return eventually(
      () => house.administrator.do('GET', `${at}/dry-runs/${id}`),
      ({ state }) => state !== 'running',
    );
  };
  const newVersion = (more = {}) => ({
    kind: 'new version',
    format: '26-8-16',
    basedOn: 1,
    name: 'Moved',
    layout: MOVED,
    reason: 'supplier’s sheet',
    ...more,
  });
  const addReads = async (bits: string[]) => {
    const rows = bits.map((b, i) => [
      randomBytes(12).toString('hex'),
      house.site,
      new Date(1.7e12 + i),
      b,
      '',
      b.length,
      'paste',
    ]);
    for (let i = 0; i < rows.length; i += 2000)
      await pool.query('INSERT INTO `reads` (id, site_id, at, bits, hex, length, source) VALUES ?', [
        rows.slice(i, i + 2000),
      ]);
  };
  const numbers = Array.from({ length: 40 }, (_, i) => String(i * 700));

  it('counts every card and read as deciding one by one does', async () => {
    const holder = await house.administrator.do('POST', `${at}/cardholders`, { name: 'H' });
    for (const [i, number] of numbers.entries())
      await house.administrator.do('POST', `${at}/cards`, {
        formatId: '26-8-16',
        facility: '58',
        number,
        ...(i % 4 !== 3 && { state: 'active', holderId: holder.id }),
      });
    const reads = Array.from({ length: 9000 }, (_, i) =>
      encode(OPEN_26, { facility: i % 3 ? '58' : '29', number: String((i * 7) % 65536) }),
    );
    await addReads(reads.map((bits) => bits.toBinary()));
    const run = await ran(newVersion());
    expect([run.state, run.done, run.total]).toEqual(['done', 9040, 9040]);
    // What everything is worth today and would be after, decided one by one.
    const credentials = numbers.map((number, i) => ({
      id: number,
      format: '26-8-16',
      facility: '58',
      number,
      holder: null,
      state: (i % 4 !== 3 ? 'active' : 'in stock') as 'active' | 'in stock',
      validFrom: null,
      validTo: null,
    }));
    const image = (format: typeof OPEN_26) => ({ formats: [format], credentials, comparesFacility: true });
    const after = { ...OPEN_26, ...parseLayoutLine(MOVED) };
    const opens = (format: typeof OPEN_26, bits: Bits) => decide(image(format), bits, Date.now()).outcome === 'opened';
    const refused = reads.filter((bits) => opens(OPEN_26, bits) && !opens(after, bits)).length;
    const accepted = reads.filter((bits) => !opens(OPEN_26, bits) && opens(after, bits)).length;
    expect(run.result.reads['newly refused']).toBe(refused);
    expect(run.result.reads['newly accepted']).toBe(accepted);
    // Number 0 keeps facility 58 no more: all thirty active cards are refused, the ten in stock decode differently.
    expect(run.result.cards).toEqual({ same: 0, 'decoded differently': 10, 'newly accepted': 0, 'newly refused': 30 });
    const names = run.result.places.map((p: { name: string }) => p.name);
    expect(names).toEqual(['the site as a whole', 'Shed']);
    expect(run.result.cardExamples[0].before.values).not.toEqual(run.result.cardExamples[0].after.values);
  });

  it('a change that refuses cards is saved only with their number typed, and the counts are in the trail', async () => {
    const run = await ran(newVersion());
    const apply = (refuses: number) => house.administrator.call('POST', `${at}/dry-runs/${run.id}/apply`, { refuses });
    const refused = await apply(0);
    expect([refused.status, refused.body.error.message]).toEqual([409, 'The change refuses 30 cards, not 0.']);
    expect((await house.administrator.do('GET', '/formats/26-8-16/versions')).length).toBe(1);
    expect((await apply(30)).body.state).toBe('applied');
    expect((await apply(30)).body.error.code).toBe('applied');
    const trail = await house.administrator.do('GET', `${at}/trail`);
    expect(trail[0]).toMatchObject({
      action: 'format version changed',
      before: { version: 1 },
      after: { version: 2, dryRun: { cards: { 'newly refused': 30 } } },
    });
    const verified = await house.administrator.do('GET', `${at}/trail/verification`);
    expect([verified.intact, verified.entries > 40]).toEqual([true, true]);
    // Back again: the cards are what they were, and open again, so nothing needs typing.
    const back = await ran({ kind: 'version', format: '26-8-16', version: 1 });
    expect(back.result.cards).toMatchObject({ 'newly refused': 0, 'newly accepted': 30 });
    await house.administrator.do('POST', `${at}/dry-runs/${back.id}/apply`, { refuses: 0 });
  });

  it('a format that cards need is taken from a controller only by way of a dry run', async () => {
    const direct = await house.administrator.call('PUT', `${at}/controllers/${controller}/formats`, { formats: [] });
    expect([direct.status, direct.body.error.code]).toEqual([409, 'dry-run-first']);
  });

  it('what changed since is not saved over', async () => {
    const run = await ran({ kind: 'accept', controller, formats: [] });
    expect(run.result.cards['newly refused']).toBe(30);
    await house.administrator.do('POST', `${at}/cards`, { formatId: '26-8-16', facility: '58', number: '9999' });
    const answer = await house.administrator.call('POST', `${at}/dry-runs/${run.id}/apply`, { refuses: 30 });
    expect([answer.status, answer.body.error.code]).toEqual([409, 'changed-meanwhile']);
    const second = await ran(newVersion({ basedOn: 1 }));
    const stale = await house.administrator.call('POST', `${at}/dry-runs/${second.id}/apply`, {
      refuses: second.result.cards['newly refused'],
    });
    expect(stale.body.error.message).toContain('saved version 2 meanwhile');
  });

  it('is cancelled; one whose server stopped is worked through by another', async () => {
    await addReads(Array.from({ length: 30_000 }, (_, i) => Bits.fromBigInt(BigInt(i), 26).toBinary()));
    const { id } = await house.administrator.do('POST', `${at}/dry-runs`, newVersion());
    const cancelled = await house.administrator.do('POST', `${at}/dry-runs/${id}/cancel`);
    expect(cancelled.state).toBe('cancelled');
    await new Promise((resolve) => setTimeout(resolve, 400));
    expect((await house.administrator.do('GET', `${at}/dry-runs/${id}`)).result).toBeNull();
    expect((await house.administrator.call('POST', `${at}/dry-runs/${id}/apply`, { refuses: 0 })).body.error.code).toBe(
      'not-done',
    );
    await pool.query("UPDATE jobs SET state = 'running', heard_at = NOW(3) - INTERVAL 1 MINUTE WHERE id = ?", [id]);
    await house.server.app.jobs.takeUpLost();
    await expect
      .poll(() => house.administrator.do('GET', `${at}/dry-runs/${id}`))
      .toMatchObject({ state: 'done', result: { reads: expect.anything() } });
  });

  it('a second format of one length: whom it makes ambiguous, by name; saved, the site uses it too', async () => {
    const [door] = await house.administrator.do('GET', `${at}/controllers`);
    const wanted = [...door.wantedFormats, '26-0-24'];
    const run = await ran({ kind: 'accept', controller, formats: wanted });
    const { cards, reads, examples } = run.result.ambiguous;
    expect([cards, reads > 0]).toEqual([41, true]);
    const held = examples.find((e: { holder?: string }) => e.holder === 'H');
    expect(held).toMatchObject({ kind: 'cards', name: expect.stringContaining('58/'), meanings: expect.anything() });
    expect(held.meanings.map((m: { format: string }) => m.format).sort()).toEqual(['26-0-24', '26-8-16']);
    expect(held.meanings.find((m: { format: string }) => m.format === '26-8-16').card.holder).toBe('H');
    await house.administrator.do('POST', `${at}/dry-runs/${run.id}/apply`, { refuses: 0 });
    const [after] = await house.administrator.do('GET', `${at}/controllers`);
    expect(after.wantedFormats.sort()).toEqual([...wanted].sort());
    const back = await ran({ kind: 'accept', controller, formats: door.wantedFormats });
    await house.administrator.do('POST', `${at}/dry-runs/${back.id}/apply`, { refuses: 0 });
    const drop = await ran({ kind: 'drop', format: '26-0-24' });
    await house.administrator.do('POST', `${at}/dry-runs/${drop.id}/apply`, { refuses: 0 });
  });

  it('adopting and dropping are shown, too; nonsense is refused at once', async () => {
    const adopt = await ran({ kind: 'adopt', format: '26-0-24' });
    expect(adopt.result.cards['newly refused']).toBe(0);
    await house.administrator.do('POST', `${at}/dry-runs/${adopt.id}/apply`, { refuses: 0 });
    const drop = await ran({ kind: 'drop', format: '26-8-16' });
    expect(drop.result.cards['newly refused']).toBe(30);
    const answer = await house.administrator.call('POST', `${at}/dry-runs/${drop.id}/apply`, { refuses: 30 });
    expect(answer.body.error.code).toBe('in-use');
    for (const [change, status] of [
      [{ kind: 'version', format: '26-8-16', version: 99 }, 404],
      [{ kind: 'drop', format: '64-0-64' }, 422],
      [newVersion({ layout: '600 | 1-600 number' }), 422],
      [newVersion({ layout: '8 | 1 even 2-8 | 8 odd 1-7 | 2-7 number' }), 422],
      [{ kind: 'accept', controller: 'nobody', formats: [] }, 404],
      [{ kind: 'melt' }, 422],
    ] as const)
      expect((await house.administrator.call('POST', `${at}/dry-runs`, change)).status).toBe(status);
  });
});

describe('facility codes, collisions, translations', () => {
  let house: House;
  let at: string;
  beforeAll(async () => {
    house = await openHouse();
    at = `/sites/${house.site}`;
    await furnish(house);
  });
  afterAll(() => house.close());

  it('a code has who ordered it, reserved ranges within the format, and changes by a dry run', async () => {
    const { administrator } = house;
    const code = await administrator.do('POST', `${at}/facility-codes`, {
      formatId: '26-8-16',
      code: '58',
      name: 'First box',
      orderedBy: 'Wet labs',
      orderedFrom: '1996-05-01T00:00:00.000Z',
      reserved: [{ from: '100', to: '199', note: 'divers' }],
    });
    expect(code).toMatchObject({ orderedBy: 'Wet labs', reserved: [{ from: '100', to: '199' }], revision: 1 });
    const change = (body: object) =>
      administrator.call('PATCH', `${at}/facility-codes/${code.id}`, { name: 'First box', ...body });
    expect((await change({ revision: 1, reserved: [{ from: '9', to: '65536' }] })).body.error.where.field).toBe(
      'reserved.0.to',
    );
    expect((await change({ revision: 1, reserved: [{ from: '9', to: '5' }] })).status).toBe(422);
    expect((await change({ revision: 7 })).body.error.code).toBe('changed-meanwhile');
    const bad = await administrator.call('POST', `${at}/facility-codes`, {
      formatId: '26-8-16',
      code: '256',
      name: 'X',
    });
    expect(bad.body.error).toMatchObject({ where: { field: 'code' }, message: expect.stringContaining('above 255') });
    await administrator.do('POST', `${at}/cards`, { formatId: '26-8-16', facility: '58', number: '7' });
    const { id } = await administrator.do('POST', `${at}/dry-runs`, { kind: 'facility code', id: code.id, code: '59' });
    await expect.poll(async () => (await administrator.do('GET', `${at}/dry-runs/${id}`)).state).toBe('done');
    await administrator.do('POST', `${at}/dry-runs/${id}/apply`, { refuses: 0 });
    const [card] = (await administrator.do('GET', `${at}/cards`)).cards;
    expect([card.facility, (await administrator.do('GET', `${at}/facility-codes`))[0].code]).toEqual(['59', '59']);
  });

  it('the same number under two codes is listed with its cards, and the controllers that cannot tell them apart', async () => {
    const { administrator } = house;
    await administrator.do('POST', `${at}/cards`, { formatId: '26-8-16', facility: '12', number: '7' });
    const blind = await administrator.do('POST', `${at}/controllers`, {
      name: 'Blind',
      device: 'blind',
      comparesFacility: false,
    });
    await administrator.do('PUT', `${at}/controllers/${blind.id}/formats`, { formats: ['26-8-16'] });
    const { numbers, total } = await administrator.do('GET', `${at}/collisions`);
    expect([total, numbers[0].number, numbers[0].at]).toEqual([1, '7', ['Blind']]);
    expect(numbers[0].cards.map((c: { facility: string }) => c.facility)).toEqual(['12', '59']);
  });

  it('what is used of a format, and where its numbers lie', async () => {
    const use = await house.administrator.do('GET', `${at}/formats/26-8-16/use`);
    expect(use).toMatchObject({ cards: 2, parts: expect.any(Array) });
    expect(use.parts[0]).toEqual({ from: '0', to: '1023', cards: 2 });
    expect(use.parts.at(-1).to).toBe('65535');
  });

  it('a translation is kept once under a name, and given up', async () => {
    const translation = {
      schema: 'rawbits/translation@1',
      from: 'hex',
      to: 'decimal',
      bits: 32,
      invert: false,
      order: 'bytes reversed',
      drop: 0,
      keep: 32,
      write: { as: 'number' },
      add: '0',
    };
    const kept = await house.administrator.do('POST', `${at}/translations`, { name: 'Desk', translation });
    expect((await house.administrator.call('POST', `${at}/translations`, { name: 'Desk', translation })).status).toBe(
      409,
    );
    expect((await house.administrator.do('GET', `${at}/translations`))[0]).toEqual(kept);
    await house.administrator.do('DELETE', `${at}/translations/${kept.id}`);
    expect(await house.administrator.do('GET', `${at}/translations`)).toEqual([]);
  });
});
