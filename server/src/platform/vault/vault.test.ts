/** The vault: who holds the store key and until when; what is enveloped opens where it belongs and nowhere else. */
import { randomBytes } from 'node:crypto';
import { keyApi, keyStoreApi } from '@rawbits/api';
import { createPool, type Pool, type RowDataPacket } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type House, openHouse, Person } from '../../testing/harness.ts';
import { enveloped, taken } from './envelope.ts';

const PASSPHRASE = 'kelp under the third winch';

describe('an envelope', () => {
  const key = randomBytes(32);
  const bound = ['site', 'set', 'name', '1'];

  it('gives back what is in it, and no two are alike', () => {
    const plain = randomBytes(16);
    const [a, b] = [enveloped(key, plain, bound), enveloped(key, plain, bound)];
    expect(a).not.toBe(b);
    for (const text of [a, b]) expect(Buffer.from(taken(key, text, bound)).equals(plain)).toBe(true);
  });

  it('of another place, of another key, cut, changed or made up does not open, and says nothing of what is in it', () => {
    const text = enveloped(key, Buffer.from('dive log'), bound);
    const changed = Array.from(
      { length: text.length },
      (_, i) => text.slice(0, i) + (text[i] === 'A' ? 'B' : 'A') + text.slice(i + 1),
    );
    const tries: [Uint8Array, string, string[]][] = [
      [key, text, ['site', 'set', 'name', '2']],
      [key, text, ['site', 'set', 'name1', '']],
      [key, text, ['site', 'setname', '1']],
      [randomBytes(32), text, bound],
      [key, '', bound],
      [key, '1.', bound],
      [key, text.slice(0, 20), bound],
      ...changed.map((one): [Uint8Array, string, string[]] => [key, one, bound]),
    ];
    let opened = 0;
    for (const [under, envelope, to] of tries)
      try {
        // The last character of base64 has bits that are nothing: changed, they change nothing.
        if (Buffer.from(taken(under, envelope, to)).toString() === 'dive log' && envelope !== text) opened++;
      } catch (error) {
        expect((error as Error).message).toMatch(/^What is kept does not open/);
      }
    expect(opened).toBeLessThanOrEqual(1);
  });
});

describe('the key store of a site', () => {
  let house: House;
  let pool: Pool;
  let site: string;
  let custodian: Person;
  beforeAll(async () => {
    house = await openHouse();
    pool = createPool(house.databaseUrl);
    ({ site } = house);
    custodian = await house.person('iris', 'key custodian');
    await custodian.ask(keyStoreApi.make, { site }, { passphrase: PASSPHRASE });
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });
  const stored = async (sql: string, values: unknown[] = []) => (await pool.query<RowDataPacket[]>(sql, values))[0];
  const stateOf = (person: Person) => person.ask(keyStoreApi.state, { site });
  const unlock = (person = custodian) => person.ask(keyStoreApi.unlock, { site }, { passphrase: PASSPHRASE });
  const at = async (port: number) => {
    const person = new Person(port);
    await person.signIn('iris');
    return person;
  };

  it('another server has the store key from the first, without the passphrase; locking holds for both', async () => {
    const other = await house.another();
    const there = await at(other.port);
    await other.app.vault.keep();
    await house.server.app.vault.keep();
    await other.app.vault.open(site);
    const { servers } = await stateOf(there);
    expect(servers.map(({ holds }) => holds)).toEqual([true, true]);
    await there.ask(keyStoreApi.lock, { site });
    expect((await stateOf(custodian)).open).toBe(false);
    for (const { app } of [house.server, other]) await expect(app.vault.open(site)).rejects.toThrow('locked');
    await unlock();
    await other.app.vault.open(site);
    await other.close();
    expect((await stateOf(custodian)).servers.map(({ holds }) => holds)).toEqual([true]);
  });

  it('unlocked at two servers at once it is one opening, and both have it', async () => {
    const other = await house.another();
    const there = await at(other.port);
    await custodian.ask(keyStoreApi.lock, { site });
    await Promise.all([unlock(), unlock(there), unlock()]);
    for (const { app } of [house.server, other]) {
      await app.vault.keep();
      await app.vault.open(site);
    }
    await other.close();
  });

  it('locked while something is under way, nothing more is sealed or opened; unlocked once more, it goes on', async () => {
    const open = await house.server.app.vault.open(site);
    const sealed = open.seal(Buffer.from('x'), ['thing']);
    // Somebody gives the passphrase while it is open: one opening, and what is under way goes on.
    await unlock();
    expect(Buffer.from(open.open(sealed, ['thing'])).toString()).toBe('x');
    await custodian.ask(keyStoreApi.lock, { site });
    expect(() => open.seal(Buffer.from('x'), ['thing'])).toThrow('The key store is locked.');
    expect(() => open.open(sealed, ['thing'])).toThrow('The key store is locked.');
    await unlock();
    expect(() => open.open(sealed, ['thing'])).toThrow('The key store is locked.');
    expect(Buffer.from((await house.server.app.vault.open(site)).open(sealed, ['thing'])).toString()).toBe('x');
  });

  it('what one server seals the other opens', async () => {
    const other = await house.another();
    await other.app.vault.keep();
    await house.server.app.vault.keep();
    const sealed = (await house.server.app.vault.open(site)).seal(Buffer.from('x'), ['thing']);
    expect(Buffer.from((await other.app.vault.open(site)).open(sealed, ['thing'])).toString()).toBe('x');
    await other.close();
  });

  it('a server, or a handed-over key, that somebody with the database alone made up is nothing', async () => {
    await pool.query(
      'INSERT INTO vault_servers (id, name, public_key, mac, heard_at) SELECT ?, ?, public_key, mac, ? FROM vault_servers LIMIT 1',
      ['intruder', 'intruder', new Date(Date.now() + 1000)],
    );
    await house.server.app.vault.keep();
    expect(await stored("SELECT sealed FROM vault_handovers WHERE server_id = 'intruder'")).toEqual([]);
    expect((await stateOf(custodian)).servers).toHaveLength(1);
    // A key of the intruder's own, put into the way of a server that has none: it is not taken.
    const other = await house.another();
    await other.app.vault.keep();
    await house.server.app.vault.keep();
    await pool.query('UPDATE vault_handovers SET mac = REVERSE(mac) WHERE sealed <> ?', ['']);
    await expect(other.app.vault.open(site)).rejects.toThrow('locked');
    await other.close();
  });

  it('a store key whose wrapping was changed in the database opens with no passphrase', async () => {
    const [row] = await stored('SELECT memory_kib FROM key_stores');
    await pool.query('UPDATE key_stores SET memory_kib = 8192');
    const answer = await custodian.call('POST', `/sites/${site}/key-store/unlock`, { passphrase: PASSPHRASE });
    expect([answer.status, answer.body.error.code]).toEqual([422, 'passphrase']);
    await pool.query('UPDATE key_stores SET memory_kib = ?', [row!.memory_kib]);
    await pool.query('DELETE FROM sign_in_failures');
    await unlock();
  });

  it('it locks itself when nothing was done with it for a while', async () => {
    await pool.query('UPDATE key_stores SET used_at = ?', [new Date(Date.now() - 16 * 60_000)]);
    await expect(house.server.app.vault.open(site)).rejects.toThrow('locked');
    await house.server.app.vault.keep();
    const [entry] = await house.administrator.do('GET', `/sites/${site}/trail`);
    expect(entry).toMatchObject({ action: 'key store locked', operator: 'Raw Bits', after: { why: 'it lay idle' } });
    await unlock();
  });

  it('sixty wrong passphrases at once: three are looked at, the rest are told to wait', async () => {
    const tries = await Promise.all(
      Array.from({ length: 60 }, (_, i) =>
        custodian.call('POST', `/sites/${site}/key-store/unlock`, { passphrase: `not this one ${i}` }),
      ),
    );
    const looked = tries.filter(({ status }) => status === 422).length;
    expect([looked <= 4, tries.filter(({ status }) => status === 429).length]).toEqual([true, 60 - looked]);
    await pool.query('DELETE FROM sign_in_failures');
  });

  it('after the last server that held it has gone it is locked, whatever the database says', async () => {
    await unlock();
    const set = await custodian.ask(keyApi.addSet, { site }, { name: 'Staff' });
    await house.server.close();
    const next = await house.another();
    const again = await at(next.port);
    expect(await stateOf(again)).toMatchObject({ set: true, open: false });
    const sent = { setId: set.id, name: 'K', kind: 'aes128', purpose: 'read', comes: { how: 'made' } } as const;
    expect((await again.call('POST', `/sites/${site}/keys`, sent)).status).toBe(423);
    await unlock(again);
    await again.ask(keyApi.add, { site }, sent);
  });
});
