/** The pad through the server: what lies on it and says of itself; what holds a key never goes by way of the database. */
import { aboutCall, padApi, rigApi } from '@rawbits/api';
import { newPair, sealedTo } from '@rawbits/api/sealed';
import { hexOf } from '@rawbits/core/cipher';
import { FilesHost, SectorsHost } from '@rawbits/core/host';
import { createPool } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { PadTransport } from '../../devices/padTransport.ts';
import { furnish, type House, openHouse, Person } from '../../testing/harness.ts';

const look = { shape: 'card', printed: '', look: '' } as const;
const SETUP = {
  cards: [
    { id: 'staff', ...look, chip: { kind: 'files', uid: '04631D92A87080', generation: 3 } },
    { id: 'band', ...look, chip: { kind: 'sectors', uid: 'B7910E5C', size: '4K' } },
    { id: 'plain', ...look, bits: '1'.repeat(26) },
  ],
  readers: [{ id: 'door', controller: 'shed' }],
  controllers: [{ id: 'shed' }],
} as const;

describe('the pad', () => {
  let house: House;
  let site: string;
  beforeAll(async () => {
    house = await openHouse();
    ({ site } = house);
    await furnish(house);
    await house.administrator.ask(rigApi.setUp, { site }, structuredClone(SETUP) as never);
  });
  afterAll(() => house.close());
  const lay = (...cards: string[]) => house.administrator.ask(padApi.lay, { site }, { cards });

  it.each([
    'no-such-card',
    'NO CARD;',
    'x'.repeat(40),
  ])('a credential that the tray has not, %s: 404 in our words', async (card) => {
    const [reader] = (await house.administrator.ask(rigApi.state, { site })).readers;
    const sent = { card, reader: reader!.id };
    const answer = await house.administrator.call('POST', `/sites/${site}/rig/presentations`, sent);
    expect([answer.status, answer.body.error.message]).toEqual([
      404,
      'There is no such credential in the tray of the rig here.',
    ]);
    const laid = await house.administrator.call('PUT', `/sites/${site}/pad`, { cards: [card] });
    expect([laid.status, /Invalid|pattern|undefined/.test(laid.body.error.message)]).toEqual([
      card === 'NO CARD;' ? 404 : 409,
      false,
    ]);
  });

  it('says what the one card on it says of itself', async () => {
    expect(await lay()).toEqual({ answers: true, cards: [], found: null, problem: '' });
    expect((await lay('staff')).found).toEqual({
      kind: 'files',
      uid: '04631D92A87080',
      uidIsRandom: false,
      ats: '067577810280',
      generation: 3,
      bytesFree: 4096,
      applications: [],
    });
    expect((await lay('band')).found).toEqual({ kind: 'sectors', uid: 'B7910E5C', size: '4K' });
    expect(await lay('staff', 'band')).toMatchObject({ found: null, problem: 'There are two cards on the pad.' });
    expect(await house.administrator.ask(padApi.state, { site })).toMatchObject({ cards: ['staff', 'band'] });
    const refused = await house.administrator.call('PUT', `/sites/${site}/pad`, { cards: ['plain'] });
    expect([refused.status, refused.body.error.message]).toEqual([
      409,
      '"plain" has nothing inside that a pad could talk to.',
    ]);
  });

  it('a card that lists its applications to nobody says so, and one with a random identifier', async () => {
    await lay('staff');
    const transport = new PadTransport(house.server.app.devices, site);
    const host = new FilesHost(transport, (count) => new Uint8Array(count).fill(9));
    await transport.connect();
    await host.authenticate('aes', 0, { kind: 'tdes2', bytes: new Uint8Array(16) }).catch(() => {});
    await host.authenticate('newer', 0, { kind: 'aes128', bytes: new Uint8Array(16) });
    await host.changeKeySettings(0x0d);
    await transport.disconnect();
    const { found } = await house.administrator.ask(padApi.state, { site });
    expect(found).toMatchObject({ kind: 'files', applications: null, bytesFree: 4096 });
  });

  it('a key goes sealed to its host, also by way of another server and the database; nobody else has one opened', async () => {
    await lay('band');
    const other = await house.another();
    const pool = createPool(house.databaseUrl);
    const seen = new Set<string>();
    const watch = setInterval(
      () => void pool.query('SELECT method, params FROM device_calls').then(([rows]) => seen.add(JSON.stringify(rows))),
      3,
    );
    try {
      const there = new PadTransport(other.app.devices, site);
      const { uid } = await there.connect();
      expect(hexOf(uid)).toBe('B7910E5C');
      const factory = new Uint8Array(6).fill(0xff);
      const host = new SectorsHost(there, uid);
      await host.authenticate(4, 'A', factory);
      expect(await host.read(4)).toEqual(new Uint8Array(16));
      clearInterval(watch);
      const carried = [...seen].join('\n');
      expect(carried).toContain('padTransmitRaw');
      expect(carried).toContain('sealed');
      expect(carried).not.toContain('FFFFFFFFFFFF');
      // Whoever can write to the database has nothing sent to a host, sealed or not, and hands in no key of theirs.
      const [[row]] = (await pool.query('SELECT id, public_key FROM device_hosts')) as any;
      const frame = JSON.stringify({ frame: '6004FFFFFFFFFFFF' });
      const sealed = await sealedTo(row.public_key, new TextEncoder().encode(frame), aboutCall('padTransmitRaw'));
      for (const [id, params] of [
        ['made-up-1', frame],
        ['made-up-2', JSON.stringify({ sealed, mac: '0'.repeat(64) })],
      ]) {
        const values = [id, row.id, 'padTransmitRaw', params];
        await pool.query(
          'INSERT INTO device_calls (id, host_id, method, params, at) VALUES (?, ?, ?, ?, NOW(3))',
          values,
        );
        await expect
          .poll(
            async () => ((await pool.query('SELECT answer FROM device_calls WHERE id = ?', [id])) as any)[0][0].answer,
          )
          .toContain('from no server of the installation');
      }
      const { publicKey } = await newPair();
      await pool.query('UPDATE device_hosts SET public_key = ?', [publicKey]);
      await expect(host.authenticate(4, 'A', factory)).rejects.toThrow('was changed in the database');
    } finally {
      clearInterval(watch);
      await pool.end();
      await other.close();
    }
  });

  it('of another site’s pad nobody has anything', async () => {
    const { id } = await house.administrator.do('POST', '/sites', { name: 'Gull Holm', shortName: 'Gull' });
    expect(await house.administrator.do('GET', `/sites/${id}/pad`)).toMatchObject({ answers: false, cards: [] });
    expect((await house.administrator.call('PUT', `/sites/${id}/pad`, { cards: ['staff'] })).status).toBe(503);
    const nobody = new Person(house.server.port);
    expect((await nobody.call('GET', `/sites/${site}/pad`)).status).toBe(401);
  });
});
