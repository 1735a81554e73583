/** What waits for a controller, item by item: counted as things change, loaded piece by piece, mended when it differs. */
import { createPool, type Pool } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { eventually, furnish, type House, loadAndWait, openHouse } from '../../testing/harness.ts';

const CARDS = 450;
const ACTIVE = { formatId: '26-8-16', facility: '58', state: 'active' };

describe('a controller, item by item', () => {
  let house: House;
  let pool: Pool;
  let at: string;
  let shed: string;
  let holder: string;
  const ask = (method: string, path: string, body?: object) => house.administrator.do(method, `${at}${path}`, body);
  beforeAll(async () => {
    house = await openHouse();
    pool = createPool(house.databaseUrl);
    at = `/sites/${house.site}`;
    shed = `/controllers/${(await furnish(house)).controller}`;
    holder = (await ask('POST', '/cardholders', { name: 'Oline Strand' })).id;
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });
  const device = () => house.rig.controller('shed');
  const load = () => loadAndWait(house.administrator, `${at}${shed}`);

  it('a change that is taken back does not wait; one of a card in stock never did', async () => {
    await load();
    const card = await ask('POST', '/cards', { ...ACTIVE, number: '1', holderId: holder });
    const inStock = await ask('POST', '/cards', { formatId: '26-8-16', facility: '58', number: '2' });
    expect(await ask('GET', shed)).toMatchObject({ waitingCount: 1, wantedCards: 1, loadedCards: 0 });
    await load();
    const lost = await ask('PATCH', `/cards/${card.id}`, { revision: 1, state: 'lost' });
    expect([(await ask('GET', shed)).waiting, lost.loaded]).toEqual([
      [{ change: 'change', what: 'card 58/1, Oline Strand, lost' }],
      { in: 0, of: 1 },
    ]);
    const again = await ask('PATCH', `/cards/${card.id}`, { revision: 2, state: 'active' });
    expect([(await ask('GET', shed)).waitingCount, again.loaded]).toEqual([0, { in: 1, of: 1 }]);
    await ask('PATCH', `/cards/${inStock.id}`, { revision: 1, notes: 'bent' });
    expect((await ask('GET', shed)).waitingCount).toBe(0);
    await ask('PATCH', `/cards/${card.id}`, { revision: 3, state: 'in stock', holderId: null });
    expect((await ask('GET', shed)).waiting).toEqual([{ change: 'remove', what: 'card 58/1, in stock' }]);
    await load();
    expect(await ask('GET', shed)).toMatchObject({ standing: 'current', loadedCards: 0, wantedCards: 0 });
    expect(device().size).toBe(2);
  });

  it('a load whose server was lost is gone on with after the last piece that came', async () => {
    const rows = Array.from({ length: CARDS }, (_, i) => [
      `many-${i}`,
      house.site,
      '26-8-16',
      '58',
      String(1000 + i),
      '',
      'active',
      '',
      1,
    ]);
    await pool.query(
      'INSERT INTO cards (id, site_id, format_id, facility, number, printed, state, notes, revision, created_at) VALUES ?',
      [rows.map((row) => [...row, new Date()])],
    );
    // Accepting the format anew is what brings cards to a controller that were not entered one by one.
    await pool.query('DELETE FROM controller_formats');
    await ask('PUT', `${shed}/formats`, { formats: ['26-8-16'] });
    expect((await ask('GET', shed)).waitingCount).toBe(CARDS);
    const came: number[] = [];
    const { takePiece } = device();
    device().takePiece = (id, seq, changes) => {
      came.push(seq);
      takePiece.call(device(), id, seq, changes);
    };
    const rig = house.server.app.devices;
    const { loadPiece } = rig;
    rig.loadPiece = async (site, controller, id, seq, changes) => {
      rig.loadPiece = loadPiece;
      await loadPiece.call(rig, site, controller, id, seq, changes);
      // As if the process had gone here: nothing is noted any more under its name.
      await pool.query(
        "UPDATE jobs SET carrier = 'gone', heard_at = NOW(3) - INTERVAL 1 MINUTE WHERE state = 'running'",
      );
    };
    await ask('POST', `${shed}/loads`);
    await expect
      .poll(() => house.server.housekeep().then(async () => (await ask('GET', shed)).load))
      .toMatchObject({ state: 'done', message: `In force: 1 format, ${CARDS} cards.` });
    expect(came).toEqual([1, 2, 3]);
    expect(await ask('GET', shed)).toMatchObject({ standing: 'current', waitingCount: 0, loadedCards: CARDS });
    expect((await ask('GET', '/trail'))[0]).toMatchObject({ operator: 'Admin', action: 'controller loaded' });
  });

  it('cards that are changed while a controller is loaded are neither lost nor in the way', async () => {
    await pool.query("UPDATE cards SET revision = revision + 1, state = 'suspended' WHERE id LIKE 'many-%'");
    await pool.query('UPDATE controller_items i JOIN cards c ON i.item = CONCAT(?, c.id) SET i.wanted = c.revision', [
      'card ',
    ]);
    const loaded = load();
    const changed = await Promise.all(
      Array.from({ length: 40 }, async (_, i) => {
        const path = `/cards/many-${i * 11}`;
        const { revision } = await ask('GET', path);
        return ask('PATCH', path, { revision, state: 'lost' });
      }),
    );
    expect([(await loaded).state, changed.length]).toEqual(['done', 40]);
    await load();
    const held = new Map(device().entries());
    for (const { id } of changed) expect(JSON.parse(held.get(`card ${id}`)!).state).toBe('lost');
    expect(await ask('GET', shed)).toMatchObject({ standing: 'current', waitingCount: 0 });
  });

  it('of two servers that find a lost load, one carries it on', async () => {
    await ask('POST', '/cards', { ...ACTIVE, number: '7', holderId: holder });
    // Started before the load: while they start nothing else in this process answers, the device neither.
    const servers = [await house.another(), await house.another()];
    const rig = house.server.app.devices;
    const { loadPiece } = rig;
    rig.loadPiece = async () => {
      rig.loadPiece = loadPiece;
      await pool.query(
        "UPDATE jobs SET carrier = 'gone', heard_at = NOW(3) - INTERVAL 1 MINUTE WHERE state = 'running'",
      );
    };
    await ask('POST', `${shed}/loads`);
    await expect.poll(() => rig.loadPiece === loadPiece).toBe(true);
    await Promise.all(servers.map(({ app }) => app.jobs.takeUpLost()));
    await expect.poll(async () => (await ask('GET', shed)).load.state).toBe('done');
    const loaded = (await ask('GET', '/trail')).filter((e: { action: string }) => e.action === 'controller loaded');
    const [[{ loads }]] = (await pool.query("SELECT COUNT(*) AS loads FROM jobs WHERE state = 'done'")) as unknown as [
      [{ loads: number }],
    ];
    expect(loaded.length).toBe(loads);
  });

  it('a lost load that is gone on with keeps nobody waiting who loads another controller', async () => {
    const other = await ask('POST', '/controllers', { name: 'Other', device: 'other' });
    await ask('POST', '/cards', { ...ACTIVE, number: '8', holderId: holder });
    const rig = house.server.app.devices;
    const { loadPiece } = rig;
    let release = () => {};
    const held = new Promise<void>((resolve) => {
      release = resolve;
    });
    rig.loadPiece = async (...piece) => {
      await held;
      return loadPiece.apply(rig, piece);
    };
    await pool.query(
      `INSERT INTO jobs (id, site_id, kind, subject, slot, state, total, input, memo, started_by, started_at, heard_at, carrier)
       SELECT 'left', site_id, 'load', id, CONCAT('load ', id), 'running', 1, '{"by":{"id":"x","name":"Somebody"}}', '{"digest":""}', 'Somebody', NOW(3), NOW(3) - INTERVAL 1 MINUTE, '' FROM controllers WHERE device = 'shed'`,
    );
    expect((await ask('POST', `/controllers/${other.id}/loads`)).state).toBe('running');
    release();
    rig.loadPiece = loadPiece;
    await expect.poll(async () => (await ask('GET', shed)).load.state).toBe('done');
  });

  it('is stopped while it is sent: what the controller had stays, and the next load brings all', async () => {
    const { digest } = device();
    await ask('POST', '/cards', { ...ACTIVE, number: '9', holderId: holder });
    const rig = house.server.app.devices;
    const { loadPiece } = rig;
    rig.loadPiece = async (...piece) => {
      rig.loadPiece = loadPiece;
      await ask('POST', `${shed}/loads/cancel`);
      return loadPiece.apply(rig, piece);
    };
    const { state, message } = await load();
    expect([state, message]).toEqual(['cancelled', 'Admin stopped the load. What the controller had is unchanged.']);
    expect([device().digest, (await ask('GET', shed)).waitingCount]).toEqual([digest, 1]);
    const twice = await house.administrator.call('POST', `/sites/${house.site}${shed}/loads/cancel`);
    expect([twice.status, twice.body.error.code]).toEqual([409, 'no-load']);
    expect((await load()).state).toBe('done');
    expect(await ask('GET', shed)).toMatchObject({ standing: 'current', waitingCount: 0 });
  });

  it('what somebody changed at the device is found, told, and mended by the next load', async () => {
    const { digest } = device();
    device().changeByHand([
      ['card many-3', null],
      ['card many-4', null],
      [
        'card stranger',
        '{"facility":"1","format":"26-8-16","holder":null,"id":"stranger","number":"1","state":"active","validFrom":null,"validTo":null}',
      ],
      ['facility compared', 'false'],
    ]);
    expect((await ask('GET', shed)).standing).toBe('differs');
    expect((await load()).state).toBe('done');
    expect([device().digest, (await ask('GET', shed)).standing]).toEqual([digest, 'current']);
    const found = (await ask('GET', '/trail')).find((e: { action: string }) => e.action === 'controller found changed');
    expect(found.after).toMatchObject({ items: 4 });
    expect([...found.after.first].sort()).toEqual(['card many-3', 'card many-4', 'card stranger', 'facility compared']);
  });

  it('a controller that was reset is loaded whole, without a question about what it holds', async () => {
    device().changeByHand([...device().entries()].map(([key]) => [key, null]));
    const rig = house.server.app.devices;
    const { parts } = rig;
    let asked = 0;
    rig.parts = (...of) => {
      asked++;
      return parts.apply(rig, of);
    };
    expect((await ask('GET', shed)).standing).toBe('differs');
    expect((await load()).state).toBe('done');
    rig.parts = parts;
    expect([asked, await ask('GET', shed)]).toMatchObject([0, { standing: 'current', waitingCount: 0 }]);
    const found = (await ask('GET', '/trail')).find((e: { action: string }) => e.action === 'controller found changed');
    expect(found.after).toMatchObject({ isEmpty: true, items: [...device().entries()].length });
  });

  it('while a load takes force it is never said to differ: what is known before and after the device was asked counts', async () => {
    const { devices } = house.server.app;
    const { of } = devices;
    await ask('POST', '/cards', { ...ACTIVE, number: '77', holderId: holder });
    // The device answers between the two looks at what is known: the whole load happens meanwhile, or just before.
    for (const [before, after] of [
      [true, false],
      [false, true],
    ]) {
      await ask('POST', '/cards', { ...ACTIVE, number: before ? '78' : '79', holderId: holder });
      devices.of = async (...asked) => {
        devices.of = of;
        if (before) await load();
        const answer = await of.apply(devices, asked);
        if (after) await load();
        return answer;
      };
      expect((await ask('GET', shed)).standing).toBe('current');
    }
  });

  it('a load of which nothing is heard is still under way, until another server has taken it over', async () => {
    const rig = house.server.app.devices;
    const { commitLoad } = rig;
    let release = () => {};
    const held = new Promise<void>((resolve) => {
      release = resolve;
    });
    let isAsked = false;
    rig.commitLoad = async (...commit) => {
      isAsked = true;
      await held;
      return commitLoad.apply(rig, commit);
    };
    await ask('POST', '/cards', { ...ACTIVE, number: '80', holderId: holder });
    await ask('POST', `${shed}/loads`);
    await expect.poll(() => isAsked).toBe(true);
    // Its server goes on saying that it lives: what it says is taken away until it is looked at.
    const silence = () => pool.query("UPDATE jobs SET heard_at = NOW(3) - INTERVAL 1 MINUTE WHERE state = 'running'");
    const load = await eventually(
      async () => (await ask('GET', shed)).load,
      ({ message }) => message !== '',
      silence,
    );
    expect(load).toMatchObject({ state: 'running', message: expect.stringContaining('Nothing was heard') });
    rig.commitLoad = commitLoad;
    release();
    await expect.poll(async () => (await ask('GET', shed)).load.state).toBe('done');
    expect(await ask('GET', shed)).toMatchObject({ standing: 'current' });
  });

  it('an installation from before loads went by item knows at its first start what its controllers have', async () => {
    const before = await ask('GET', shed);
    const image = { formats: [] as unknown[], credentials: [] as unknown[], comparesFacility: true };
    for (const [key, text] of device().entries()) {
      if (key.startsWith('format ')) image.formats.push(JSON.parse(text));
      if (key.startsWith('card ')) image.credentials.push(JSON.parse(text));
    }
    await pool.query("UPDATE controllers SET loaded_image = ?, loaded_digest = 'of old', loaded_cards = 0", [
      JSON.stringify(image),
    ]);
    await pool.query('DELETE FROM controller_items');
    await pool.query('DELETE FROM card_counts');
    await pool.query("DELETE FROM installation WHERE name IN ('items of controllers', 'counts of cards')");
    await house.another();
    expect(await ask('GET', shed)).toMatchObject({
      standing: 'current',
      waitingCount: 0,
      loadedCards: before.loadedCards,
      loadedFormats: ['26-8-16'],
      wantedCards: CARDS + 7,
    });
  });
});
