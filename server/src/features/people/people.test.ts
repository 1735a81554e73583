/** Cardholders: what is kept of them, what their kind brings, PINs that nobody sees, photographs, and their erasure. */
import { sql } from 'drizzle-orm';
import { createPool, type RowDataPacket } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { eventually, furnish, type House, loadAndWait, openHouse, type Person } from '../../testing/harness.ts';
import { endCards } from '../stock/index.ts';

const PIXEL = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==';

describe('people', () => {
  let house: House;
  let at: string;
  let admin: Person;
  let door: string;
  let shed: string;
  beforeAll(async () => {
    house = await openHouse();
    at = `/sites/${house.site}`;
    admin = house.administrator;
    const ids = await furnish(house);
    shed = `${at}/controllers/${ids.controller}`;
    door = (await admin.do('GET', `${at}/access`)).doors[0].id;
  });
  afterAll(() => house.close());
  const add = (person: object) => admin.do('POST', `${at}/cardholders`, person);
  const one = (id: string) => admin.do('GET', `${at}/cardholders/${id}`);
  let next = 100;
  const giveCard = (holderId: string, more: object = {}) =>
    admin.do('POST', `${at}/cards`, {
      ...{ formatId: '26-8-16', facility: '58', number: String(++next), holderId, state: 'active' },
      ...more,
    });
  /** Every text that stands anywhere in the database. */
  const everything = async (): Promise<string> => {
    const pool = createPool(house.databaseUrl);
    const [tables] = await pool.query<RowDataPacket[]>(
      'SELECT table_name AS t FROM information_schema.tables WHERE table_schema = DATABASE()',
    );
    let all = '';
    for (const { t } of tables) all += JSON.stringify((await pool.query('SELECT * FROM ??', [t]))[0]);
    await pool.end();
    return all;
  };

  it('are told by their new name at the doors that were loaded since, and the doors wait until they are', async () => {
    const { id } = await add({ name: 'Torunn Lie' });
    await giveCard(id);
    await loadAndWait(admin, shed);
    const waiting = async (): Promise<number> => (await admin.do('GET', shed)).waitingCount;
    expect(await waiting()).toBe(0);
    await admin.do('PATCH', `${at}/cardholders/${id}`, { revision: 1, contact: 'quay 1' });
    expect(await waiting()).toBe(0);
    await admin.do('PATCH', `${at}/cardholders/${id}`, { revision: 2, name: 'Torunn Moe' });
    expect((await admin.do('GET', shed)).waiting).toEqual([
      { change: 'change', what: expect.stringContaining('Torunn Moe') },
    ]);
    await loadAndWait(admin, shed);
    expect(await waiting()).toBe(0);
  });

  it('are kept with their organisation, kind and contact; of two who change them at once one is told', async () => {
    const { id } = await add({
      name: 'Åse Vik',
      organisation: 'Kelp Line',
      kind: 'contractor',
      contact: 'quay 2, 0700',
    });
    expect(await one(id)).toMatchObject({
      ...{ name: 'Åse Vik', organisation: 'Kelp Line', kind: 'contractor', contact: 'quay 2, 0700' },
      ...{ cards: 0, groups: [], hasPin: false, hasPhotograph: false, revision: 1 },
    });
    const patch = (body: object) => admin.call('PATCH', `${at}/cardholders/${id}`, body);
    const both = await Promise.all([patch({ revision: 1, notes: 'a' }), patch({ revision: 1, notes: 'b' })]);
    expect(both.map(({ status }) => status).sort()).toEqual([200, 409]);
    const record = await admin.do('GET', `${at}/happened?show=changes`);
    expect(JSON.stringify(record)).not.toContain('quay 2');
  });

  it('a kind brings groups and days to whoever is of it, unless an assertion would break', async () => {
    const send = (change: object) => admin.do('POST', `${at}/access/changes`, { change });
    const { id: group } = await send({
      ...{ kind: 'group', id: null, name: 'Guests' },
      rights: [{ doors: [{ door, ways: ['in'] }], schedule: 'always' }],
    });
    const rules = { pinDigits: 6, pinsDiffer: true, revision: 0 };
    const put = (body: object) => admin.call('PUT', `${at}/cardholder-rules`, body);
    const brings = [{ organisation: '', kind: 'visitor', groups: [group], days: 14 }];
    expect((await put({ ...rules, brings: [{ ...brings[0], kind: '' }] })).status).toBe(422);
    expect((await put({ ...rules, brings })).status).toBe(200);
    expect((await put({ ...rules, brings })).body.error.code).toBe('changed-meanwhile');
    const visitor = await add({ name: 'Vera', kind: 'Visitor' });
    expect(await one(visitor.id)).toMatchObject({ groups: [group], cardDays: 14 });
    expect(await one((await add({ name: 'Steinar', kind: 'staff' })).id)).toMatchObject({ groups: [], cardDays: null });
    await admin.do('POST', `${at}/access/assertions`, {
      ...{ id: null, name: 'No visitor at night', but: [], doors: [door], way: 'in' },
      during: { periods: [{ days: [1, 2, 3, 4, 5, 6, 7], from: '22:00', to: '06:00' }], onHolidays: [] },
    });
    // A group that is no more is brought to nobody, and keeps nobody out.
    const { id: brief } = await send({ kind: 'group', id: null, name: 'Brief', rights: [] });
    const both = [...brings, { organisation: '', kind: 'diver', groups: [brief], days: null }];
    expect((await put({ ...rules, revision: 1, brings: both })).status).toBe(200);
    await send({ kind: 'remove group', id: brief });
    expect((await admin.call('POST', `${at}/cardholders`, { name: 'Dag', kind: 'diver' })).status).toBe(200);
    expect((await admin.do('GET', `${at}/cardholder-rules`)).brings[1].groups).toEqual([]);
    // It was broken before anybody came, as the door asks for no groups: another visitor changes nothing of that.
    expect((await admin.call('POST', `${at}/cardholders`, { name: 'Vidar', kind: 'visitor' })).status).toBe(200);
  });

  it('a PIN stands nowhere, is nobody else’s, and not on the card', async () => {
    const [a, b] = [await add({ name: 'Pin One' }), await add({ name: 'Pin Two' })];
    await giveCard(a.id, { number: '48213', printed: 'No. 048213-7' });
    const put = (id: string, pin: string | null) => admin.call('PUT', `${at}/cardholders/${id}/pin`, { pin });
    expect((await put(a.id, '4821')).body.error.message).toBe('A PIN has 6 digits at this site, and this one 4.');
    expect((await put(a.id, '048213')).body.error.message).toBe('These digits stand on a card of theirs.');
    expect((await put(a.id, '48x213')).status).toBe(422);
    expect((await put(a.id, '739154')).status).toBe(200);
    const taken = await put(b.id, '739154');
    expect([taken.status, taken.body.error.message]).toEqual([409, 'This PIN cannot be taken.']);
    expect(await one(a.id)).toMatchObject({ hasPin: true });
    expect(await everything()).not.toContain('739154');
    const viewer = await house.person('pin-viewer', 'viewer');
    expect(JSON.stringify(await viewer.do('GET', `${at}/cardholders/${a.id}`))).not.toMatch(/hash|739154/);
    expect((await put(a.id, null)).status).toBe(200);
    expect((await put(b.id, '739154')).status).toBe(200);
    // Ten at once for ten people: one has it.
    const many = await Promise.all(Array.from({ length: 10 }, (_, i) => add({ name: `Crowd ${i}` })));
    const answers = await Promise.all(many.map(({ id }) => put(id, '556677')));
    expect(answers.filter(({ status }) => status === 200).length).toBe(1);
    await house.server.app.db.execute(sql`DELETE FROM sign_in_failures`);
  });

  it('whoever tries PINs to learn which are taken is slowed down, and each try is an entry', async () => {
    await house.server.app.db.execute(sql`DELETE FROM sign_in_failures`);
    const [taken, other] = [await add({ name: 'Has it' }), await add({ name: 'Tried on' })];
    const put = (id: string, pin: string) => admin.call('PUT', `${at}/cardholders/${id}/pin`, { pin });
    await admin.do('PUT', `${at}/cardholders/${taken.id}/pin`, { pin: '640917' });
    const statuses: number[] = [];
    // Between two refusals one that is taken: that takes back its own try alone.
    for (const pin of ['640917', '102938', '640917', '640917', '640917'])
      statuses.push((await put(other.id, pin)).status);
    expect(statuses).toEqual([409, 200, 409, 409, 429]);
    const entries = await admin.do('GET', `${at}/trail`);
    const refused = entries.slice(0, 5).filter(({ action }: { action: string }) => action === 'PIN refused');
    expect(refused.map(({ subject }: { subject: string }) => subject)).toEqual(Array(3).fill('cardholder Tried on'));
    expect(JSON.stringify(refused)).not.toContain('640917');
    await house.server.app.db.execute(sql`DELETE FROM sign_in_failures`);
  });

  it('a photograph is a picture, small, and for those who may see it', async () => {
    const { id } = await add({ name: 'Seen' });
    const put = (photograph: object | null) => admin.call('PUT', `${at}/cardholders/${id}/photograph`, { photograph });
    expect((await put({ type: 'image/jpeg', data: PIXEL })).body.error.message).toContain('no picture of the type');
    expect((await put({ type: 'image/png', data: 'A'.repeat(120_004) })).status).toBe(422);
    const huge = Buffer.from(PIXEL, 'base64');
    huge.writeUInt32BE(20_000, 16);
    expect((await put({ type: 'image/png', data: huge.toString('base64') })).body.error.message).toContain('20000 × 1');
    expect((await put({ type: 'image/png', data: 'iVBORw0KGgo=' })).body.error.message).toContain('damaged');
    // The beginning of a JPEG whose frame says 20,000 × 20,000 (ISO/IEC 10918-1 §B.2.2).
    const frame = Buffer.from(
      'ffd8ffe000104a46494600010100000100010000ffc000110808004e204e2003012200021101031101',
      'hex',
    );
    frame.writeUInt16BE(20_000, frame.length - 14);
    frame.writeUInt16BE(20_000, frame.length - 12);
    expect((await put({ type: 'image/jpeg', data: frame.toString('base64') })).body.error.message).toContain('20000');
    expect((await put({ type: 'image/png', data: PIXEL })).status).toBe(200);
    expect(await admin.do('GET', `${at}/cardholders/${id}/photograph`)).toEqual({ type: 'image/png', data: PIXEL });
    const viewer = await house.person('picture-viewer', 'viewer');
    expect((await viewer.call('GET', `${at}/cardholders/${id}/photograph`)).status).toBe(403);
    expect((await viewer.call('GET', `${at}/cardholders/${id}/export`)).status).toBe(403);
    expect((await put(null)).status).toBe(200);
    expect((await admin.call('GET', `${at}/cardholders/${id}/photograph`)).status).toBe(404);
  });

  it('all that is kept of somebody goes out, and is erased; the record keeps that it was', async () => {
    const { id } = await add({ name: 'Quillon Ferrand', contact: 'attic 9' });
    await admin.do('PUT', `${at}/cardholders/${id}/photograph`, { photograph: { type: 'image/png', data: PIXEL } });
    await admin.do('PUT', `${at}/cardholders/${id}/pin`, { pin: '918273' });
    await admin.do('PUT', `${at}/formats/37-16-19`);
    await admin.do('PUT', `${shed}/formats`, { formats: ['26-8-16', '37-16-19'] });
    const card = await giveCard(id, { formatId: '37-16-19', facility: '2214', number: '118406' });
    await loadAndWait(admin, shed);
    const [{ id: reader }] = (await admin.do('GET', `${at}/readers`)).filter(
      (r: { device: string }) => r.device === 'door',
    );
    await admin.do('POST', `${at}/rig/presentations`, { card: 'boat', reader });
    const out = await admin.do('GET', `${at}/cardholders/${id}/export`);
    expect(out).toMatchObject({
      cardholder: { name: 'Quillon Ferrand', contact: 'attic 9', hasPin: true },
      cards: [{ number: '118406', state: 'active' }],
      photograph: { data: PIXEL },
      events: [{ outcome: 'opened', reader: 'Shed door' }],
    });
    expect(out.record.map(({ action }: { action: string }) => action)).toEqual(
      expect.arrayContaining(['cardholder added', 'PIN set', 'photograph kept']),
    );
    // Refused while they had another name, with a card that nobody had loaded; and a card of somebody whose name begins so.
    const pool = createPool(house.databaseUrl);
    const event = (key: string, card: string | null, holder: string | null, advice: string | null) => [
      ...[key, house.site, new Date(), 'presented', 'refused', `Door: no access group of ${holder} has this door.`],
      ...[advice, card, holder],
    ];
    await pool.query('INSERT INTO events (id, site_id, at, kind, outcome, reason, advice, card_id, holder) VALUES ?', [
      [
        event('e1', null, null, 'The card is on file for Quillon Ferrand, but not loaded: load Shed.'),
        event('e2', card.id, 'Somebody Before', null),
        event('e3', 'other', 'Old Quillon Ferrand', null),
        event('e4', 'other', 'Quillon Maiden', null),
      ],
    ]);
    await admin.do('PATCH', `${at}/cardholders/${id}`, { revision: 1, name: 'Quillon Maiden' });
    await admin.do('PATCH', `${at}/cardholders/${id}`, { revision: 2, name: 'Quillon Ferrand' });
    const erase = (revision: number) => admin.call('DELETE', `${at}/cardholders/${id}?revision=${revision}`);
    expect((await erase(3)).body.error.message).toBe('Quillon Ferrand still holds a card.');
    const { revision } = await admin.do('GET', `${at}/cards/${card.id}`);
    await admin.do('PATCH', `${at}/cards/${card.id}`, { revision, state: 'withdrawn' });
    expect((await erase(7)).status).toBe(409);
    expect((await erase(3)).status).toBe(200);
    expect((await admin.call('GET', `${at}/cardholders/${id}`)).status).toBe(404);
    expect(await admin.do('GET', `${at}/cards/${card.id}`)).toMatchObject({ holder: null, state: 'withdrawn' });
    const [left] = await pool.query<RowDataPacket[]>('SELECT id, holder, reason, advice FROM events ORDER BY id');
    await pool.end();
    expect(JSON.stringify(left.filter((row) => row.id !== 'e3'))).not.toContain('Quillon');
    // What is others' stays theirs.
    expect(left.find((row) => row.id === 'e2')).toMatchObject({ holder: 'Somebody Before' });
    expect(left.find((row) => row.id === 'e3')).toMatchObject({
      holder: 'Old Quillon Ferrand',
      reason: 'Door: no access group of Old Quillon Ferrand has this door.',
    });
    // What the controller was loaded with is named anew with the next load.
    await loadAndWait(admin, shed);
    expect(JSON.stringify([...house.rig.controller('shed').entries()])).not.toContain('Quillon');
    const { message } = await admin.do('GET', `${at}/trail/verification`);
    expect(message).toMatch(/^All /);
  });

  it('cards end by themselves, once, whichever server sees it; and reports name what is to be looked after', async () => {
    const { id } = await add({ name: 'Temporary' });
    const soon = (ms: number) => new Date(Date.now() + ms).toISOString();
    const ending = await giveCard(id, { validTo: soon(3_600_000) });
    const lasting = await giveCard(id, { validTo: soon(60 * 24 * 3_600_000) });
    const report = async (name: string) =>
      (await admin.do('GET', `${at}/cards?report=${encodeURIComponent(name)}`)).cards.map((c: { id: string }) => c.id);
    expect(await report('ending')).toEqual([ending.id]);
    expect(await report('never used')).toEqual(expect.arrayContaining([ending.id, lasting.id]));
    await loadAndWait(admin, shed);
    const another = await house.another();
    const later = new Date(Date.now() + 7_200_000);
    const ended = await Promise.all([endCards(house.server.app, later), endCards(another.app, later)]);
    expect(ended[0]! + ended[1]!).toBe(1);
    expect(await admin.do('GET', `${at}/cards/${ending.id}`)).toMatchObject({ state: 'expired', holder: { id } });
    expect(await admin.do('GET', `${at}/cards/${lasting.id}`)).toMatchObject({ state: 'active' });
    const history = await admin.do('GET', `${at}/cards/${ending.id}/history`);
    expect(history[0]).toMatchObject({ action: 'card expired', operator: 'Raw Bits' });
    expect(await report('still loaded')).toEqual([ending.id]);
    await loadAndWait(admin, shed);
    expect(await report('still loaded')).toEqual([]);
    expect(await report('ending')).toEqual([]);
    const without = await admin.do('GET', `${at}/cardholders?without=cards`);
    expect(without.cardholders.map(({ name }: { name: string }) => name)).not.toContain('Temporary');
    // A server whose housekeeping goes by the clock does the same without being told.
    await house.another({ housekeeping: 'by the clock' });
    const past = await giveCard(id, { validFrom: '2020-01-01T00:00:00.000Z', validTo: '2020-02-01T00:00:00.000Z' });
    await eventually(
      () => admin.do('GET', `${at}/cards/${past.id}`),
      ({ state }) => state === 'expired',
    );
  });
});
