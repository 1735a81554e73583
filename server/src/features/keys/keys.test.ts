/** The key store: what takes two custodians, what is bound to what, and that a key is found nowhere but where it belongs. */
import { createDecipheriv, pbkdf2Sync } from 'node:crypto';
import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import {
  type Answer,
  type KeyRequest,
  keyApi,
  keyBackupApi,
  keyHoldingApi,
  keyRequestApi,
  keyStoreApi,
  operatorApi,
} from '@rawbits/api';
import { bytesOf } from '@rawbits/core/cipher';
import { checkValueOf, combined } from '@rawbits/core/key';
import { createPool, type Pool, type RowDataPacket } from 'mysql2/promise';
import pino from 'pino';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { furnish, type House, openHouse, type Person } from '../../testing/harness.ts';

const PASSPHRASE = 'kelp under the third winch';
const FIRST = 'herring rope lantern slate';
const SECOND = 'osprey tide barrel copper';
/** A key of our own invention, typed in. */
const TYPED = '5C0FFE11D00DAD15EA5EDBEA75CA1AB1';

type Pathed = { status: number; body: { error: { code: string; message: string } } };

describe('the key store', () => {
  let house: House;
  let pool: Pool;
  let [one, two]: Person[] = [];
  let site: string;
  let set: string;
  const logged: string[] = [];
  const answers: string[] = [];

  /** As `Person.ask`, keeping every answer but those that show a key on purpose. */
  const ask = async (person: Person, ...[route, params, body]: Parameters<Person['ask']>): Promise<any> => {
    const answer = await person.ask(route, params, body as never);
    if (!route.secret) answers.push(JSON.stringify(answer));
    return answer;
  };
  const refused = async (person: Person, ...[route, params, body]: Parameters<Person['ask']>): Promise<Pathed> => {
    const path = route.path.replace(/\{(\w+)\}/g, (_, name: string) => (params as Record<string, string>)[name]!);
    const answer = await person.call(route.method.toUpperCase(), path, body);
    answers.push(JSON.stringify(answer.body));
    expect(answer.status).toBeGreaterThanOrEqual(400);
    return answer;
  };
  const add = (name: string, comes: object, kind = 'aes128') =>
    ask(one!, keyApi.add, { site }, { setId: set, name, kind, purpose: 'read', comes } as never);
  const stored = async (sql: string, values: unknown[] = []) => (await pool.query<RowDataPacket[]>(sql, values))[0];
  const trail = async () => (await house.administrator.do('GET', `/sites/${site}/trail`)) as { action: string }[];

  beforeAll(async () => {
    house = await openHouse();
    // A log of its own, of everything, that is looked through at the end.
    house.server.app.log = pino({ level: 'trace' }, { write: (line: string) => void logged.push(line) });
    pool = createPool(house.databaseUrl);
    ({ site } = house);
    one = await house.person('iris', 'key custodian');
    two = await house.person('tobias', 'key custodian');
    await ask(one, keyStoreApi.make, { site }, { passphrase: PASSPHRASE });
    set = (await ask(one, keyApi.addSet, { site }, { name: 'Staff cards' })).id;
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });

  it('is made once, and a passphrase that many choose is none', async () => {
    expect((await refused(two!, keyStoreApi.make, { site }, { passphrase: PASSPHRASE })).body.error.code).toBe(
      'store-there',
    );
    expect((await refused(two!, keyStoreApi.make, { site }, { passphrase: 'passwordpassword' })).status).toBe(422);
  });

  it('counts the people who take part in keeping keys, and none whose account is closed', async () => {
    const people = async () => (await ask(two!, keyStoreApi.state, { site })).people;
    const before = await people();
    const operators = await house.administrator.ask(operatorApi.list, { site });
    const having = (...roles: string[]) =>
      operators.filter((one) => one.closedAt === null && one.roles.some((role) => roles.includes(role))).length;
    expect(before).toEqual({ custodians: 2, agree: having('administrator', 'key custodian') });
    await house.person('ada', 'administrator');
    expect(await people()).toEqual({ custodians: 2, agree: before.agree + 1 });
    const { id } = (await house.administrator.ask(operatorApi.list, { site })).find(({ login }) => login === 'ada')!;
    await house.administrator.ask(operatorApi.close, { site, id });
    expect(await people()).toEqual(before);
  });

  it('a key is known by its check value alone, and stands in the database in an envelope', async () => {
    const made = await add('Reading', { how: 'made' });
    expect([made.current, made.versions[0].checkOf, made.versions[0].checkValue]).toEqual([
      1,
      'cmac',
      expect.stringMatching(/^[0-9A-F]{6}$/),
    ]);
    const typed = await add('Supplier', {
      how: 'typed',
      hex: TYPED,
      check: checkValueOf('aes128', bytesOf(TYPED, 'key')),
    });
    expect(typed.versions[0].checkValue).toBe(checkValueOf('aes128', bytesOf(TYPED, 'key')));
    for (const [kind, length] of [
      ['tdes2', 16],
      ['tdes3', 24],
      ['sector', 6],
      ['osdp', 16],
    ] as const) {
      const { id, versions } = await add(kind, { how: 'made' }, kind);
      expect(versions[0].checkOf).toBe(kind.startsWith('tdes') ? 'zeros' : 'cmac');
      // Two characters of mark, 12 bytes of vector and 16 of tag besides the key.
      const [row] = await stored('SELECT envelope FROM key_versions WHERE key_id = ?', [id]);
      expect(Buffer.from(row!.envelope.slice(2), 'base64url')).toHaveLength(12 + length + 16);
    }
  });

  it.each<[string, object, string, string?]>([
    ['of the wrong length', { how: 'typed', hex: 'AABB' }, 'has 2 bytes, not 16'],
    ['no hex', { how: 'typed', hex: 'x'.repeat(32) }, 'is no hex digit'],
    ['weak', { how: 'typed', hex: '00'.repeat(16) }, 'This is a weak key'],
    ['with another check value', { how: 'typed', hex: TYPED, check: '000000' }, 'not 000000'],
    [
      'of even parity',
      { how: 'typed', hex: '0123456789ABCDEF1032547698BADCFF' },
      'Byte 16 has an even number',
      'tdes2',
    ],
    ['in one component', { how: 'components', parts: 1 }, 'at least 2 components'],
  ])('a key that is %s is refused, and nothing of it is kept', async (_, comes, message, kind = 'aes128') => {
    const answer = await refused(one!, keyApi.add, { site }, {
      setId: set,
      name: 'Wrong',
      kind,
      purpose: 'read',
      comes,
    } as never);
    expect([answer.status, answer.body.error.message]).toEqual([422, expect.stringContaining(message)]);
    expect(await stored("SELECT id FROM `keys` WHERE name = 'Wrong'")).toEqual([]);
  });

  it('a weak key is kept where that is asked for, and says so', async () => {
    const { versions } = await add('Blank', { how: 'typed', hex: '00'.repeat(16), evenWeak: true });
    expect(versions[0].warning).toBe('All of its bytes are the same.');
  });

  it('two custodians put a key together, each from a component that the other is not shown', async () => {
    const { id, current } = await add('Dive log', { how: 'components', parts: 2 });
    expect(current).toBeNull();
    const at = { site, id, version: '1' };
    const first = (await one!.ask(keyApi.give, at, { how: 'made' })).sheet!;
    expect(first).toMatchObject({ part: 1, of: 2, custodian: 'iris', set: 'Staff cards', key: 'Dive log' });
    expect(checkValueOf('aes128', bytesOf(first.hex, 'key'))).toBe(first.checkValue);
    // Neither the same person again, nor one of the same name under another account.
    const twin = await house.person('iris-too', 'key custodian');
    await pool.query("UPDATE operators SET name = ' IRIS' WHERE login = 'iris-too'");
    for (const person of [one!, twin])
      expect((await refused(person, keyApi.give, at, { how: 'made' })).body.error.code).toBe('same-custodian');
    // Its sheet is there again for whoever gave it, and for nobody else.
    expect(await one!.ask(keyApi.sheet, at)).toEqual(first);
    expect((await refused(two!, keyApi.sheet, at)).status).toBe(404);
    const second = 'C0FFEEAD0BE5A11F00DDEC0DEBEEF5A1';
    const wrong = await refused(two!, keyApi.give, at, { how: 'typed', hex: second, check: '123456' });
    expect(wrong.body.error.message).toContain('not 123456');
    const { key, sheet } = await two!.ask(keyApi.give, at, { how: 'typed', hex: second });
    const whole = combined([bytesOf(first.hex, 'a'), bytesOf(second, 'b')]);
    expect([sheet, key.current, key.versions[0]!.checkValue]).toEqual([null, 1, checkValueOf('aes128', whole)]);
    expect(key.versions[0]!.components.map(({ part, custodian, mine }) => [part, custodian, mine])).toEqual([
      [1, 'iris', false],
      [2, 'tobias', true],
    ]);
    expect(await stored('SELECT envelope FROM key_components')).toEqual([{ envelope: null }, { envelope: null }]);
    expect((await refused(one!, keyApi.sheet, at)).body.error.code).toBe('not-waiting');
  });

  it('components of one key raced for: each custodian has one, and the key is put together once', async () => {
    const { id } = await add('Raced', { how: 'components', parts: 2 });
    const path = `/sites/${site}/keys/${id}/versions/1/components`;
    const all = await Promise.all(
      [one!, one!, one!, two!, two!].map((person) => person.call('POST', path, { how: 'made' })),
    );
    expect(all.map(({ status }) => status).filter((status) => status === 200)).toHaveLength(2);
    const [count] = await stored(
      "SELECT COUNT(*) AS n FROM trail WHERE action = 'key put together' AND subject LIKE '%Raced%'",
    );
    expect(count!.n).toBe(1);
  });

  it('a key is rolled over: a new version, put in use, the old one destroyed by two', async () => {
    const { id } = await add('Rolling', { how: 'made' });
    const rolled = await ask(one!, keyApi.addVersion, { site, id }, { version: 2, comes: { how: 'made' } });
    expect([rolled.current, rolled.versions.map((v: { state: string }) => v.state)]).toEqual([1, ['ready', 'ready']]);
    const destroyFirst = { kind: 'destroy', keyId: id, version: 1, reason: 'rolled over to the second' } as const;
    expect((await refused(one!, keyRequestApi.ask, { site }, destroyFirst)).body.error.code).toBe('in-use');
    await ask(one!, keyApi.use, { site, id, version: '2' });
    const asked: KeyRequest = await ask(one!, keyRequestApi.ask, { site }, destroyFirst);
    expect((await refused(one!, keyRequestApi.agree, { site, id: asked.id }, {})).status).toBe(403);
    await ask(two!, keyRequestApi.agree, { site, id: asked.id }, {});
    const [key] = (await ask(one!, keyApi.list, { site }))[0].keys.filter((k: { id: string }) => k.id === id);
    expect(key.versions.map((v: { state: string }) => v.state)).toEqual(['destroyed', 'ready']);
    expect(await stored('SELECT envelope FROM key_versions WHERE key_id = ? AND version = 1', [id])).toEqual([
      { envelope: null },
    ]);
    expect((await refused(one!, keyApi.use, { site, id, version: '1' })).body.error.code).toBe('destroyed');
  });

  it('a version past its last day is put in use no more', async () => {
    const { id } = await add('Seasonal', { how: 'made' });
    const begun = { version: 2, validTo: '2026-01-01T00:00:00.000Z', comes: { how: 'made' } } as const;
    await ask(one!, keyApi.addVersion, { site, id }, begun);
    expect((await refused(one!, keyApi.use, { site, id, version: '2' })).body.error.code).toBe('past-its-end');
  });

  it('a key is uncovered with another’s agreement, to whoever asked, once', async () => {
    const { id } = (await ask(one!, keyApi.list, { site }))[0].keys.find(
      (k: { name: string }) => k.name === 'Supplier',
    );
    const asking = { kind: 'uncover', keyId: id, version: 1, reason: 'the reader has to be set up by hand' } as const;
    const asked = await ask(one!, keyRequestApi.ask, { site }, asking);
    expect((await refused(one!, keyRequestApi.see, { site, id: asked.id })).status).toBe(404);
    expect((await refused(one!, keyRequestApi.agree, { site, id: asked.id }, {})).status).toBe(403);
    await ask(two!, keyRequestApi.agree, { site, id: asked.id }, {});
    expect((await refused(two!, keyRequestApi.see, { site, id: asked.id })).status).toBe(403);
    const seen = await Promise.all(
      [1, 2, 3].map(() =>
        one!.call('POST', `/sites/${site}/key-requests/${asked.id}/see`, undefined, {
          'idempotency-key': `see-${asked.id}`,
        }),
      ),
    );
    expect(seen.filter(({ status }) => status === 200).map(({ body }) => body.hex)).toEqual([TYPED]);
    const holdings = await ask(one!, keyHoldingApi.list, { site });
    expect(holdings.filter((h: { keyId: string }) => h.keyId === id).map((h: { how: string }) => h.how)).toEqual([
      'typed it in',
      'saw it',
    ]);
    const [entry] = (await trail()).filter(({ action }) => action === 'key uncovered') as unknown as [
      { after: object },
    ];
    expect(entry.after).toEqual({ reason: asking.reason, agreedBy: 'tobias' });
  });

  it('nobody but a custodian asks or agrees, and one who is none any more has asked for nothing', async () => {
    const { id } = (await ask(one!, keyApi.list, { site }))[0].keys[0];
    const third = await house.person('third', 'key custodian');
    const asked = await ask(third, keyRequestApi.ask, { site }, {
      kind: 'uncover',
      keyId: id,
      version: 1,
      reason: 'to see whether it goes',
    } as never);
    expect((await refused(house.administrator, keyRequestApi.agree, { site, id: asked.id }, {})).status).toBe(403);
    await pool.query("DELETE s FROM operator_sites s JOIN operators o ON o.id = s.operator_id WHERE o.login = 'third'");
    expect((await refused(two!, keyRequestApi.agree, { site, id: asked.id }, {})).body.error.code).toBe('asker-gone');
    await ask(two!, keyRequestApi.refuse, { site, id: asked.id });
  });

  it('an envelope put in another’s place does not open, and says that it was changed', async () => {
    const [a, b] = (await ask(one!, keyApi.list, { site }))[0].keys.filter(
      (k: { kind: string; current: number | null }) => k.kind === 'aes128' && k.current === 1,
    );
    await pool.query(
      'UPDATE key_versions x JOIN key_versions y ON y.key_id = ? SET x.envelope = y.envelope WHERE x.key_id = ?',
      [b.id, a.id],
    );
    const asked = await ask(one!, keyRequestApi.ask, { site }, {
      kind: 'backup',
      reason: 'before the moving of the racks',
      part: FIRST,
    } as never);
    expect((await refused(two!, keyRequestApi.agree, { site, id: asked.id }, { part: SECOND })).body.error.code).toBe(
      'envelope',
    );
    // Nothing was settled by that: it can be refused, and the key that was broken is rolled over.
    await ask(one!, keyRequestApi.refuse, { site, id: asked.id });
    await pool.query('DELETE FROM key_versions WHERE key_id = ?', [a.id]);
    await pool.query('DELETE FROM `keys` WHERE id = ?', [a.id]);
  });

  it('a backup of more keys than a file of keys may hold, which could not be restored, is not made', async () => {
    const [{ id }] = (await ask(one!, keyApi.list, { site }))[0].keys;
    await pool.query(
      `INSERT INTO key_versions (key_id, version, site_id, envelope, origin, made_by, made_at)
       SELECT CONCAT('many-', seq), 1, ?, 'x', 'made', 'iris', NOW() FROM seq_1_to_5001`,
      [site],
    );
    await pool.query(
      `INSERT INTO \`keys\` (id, site_id, set_id, name, kind, purpose, notes, created_at)
       SELECT CONCAT('many-', seq), ?, set_id, CONCAT('Many ', seq), kind, purpose, '', NOW()
       FROM \`keys\` JOIN seq_1_to_5001 WHERE id = ?`,
      [site, id],
    );
    const asking = { kind: 'backup', reason: 'before the winter', part: FIRST } as const;
    const asked = await ask(one!, keyRequestApi.ask, { site }, asking);
    const { status, body } = await refused(two!, keyRequestApi.agree, { site, id: asked.id }, { part: SECOND });
    expect([status, body.error.code]).toEqual([409, 'too-many-keys']);
    await ask(one!, keyRequestApi.refuse, { site, id: asked.id });
    for (const [table, column] of [
      ['key_versions', 'key_id'],
      ['`keys`', 'id'],
    ])
      await pool.query(`DELETE FROM ${table} WHERE ${column} LIKE 'many-%'`);
  });

  let backup: Answer<typeof keyBackupApi.file>;
  it('two custodians back the keys up, each with a part of the passphrase; another library opens the file', async () => {
    const asking = { kind: 'backup', reason: 'the monthly one, for the safe', part: FIRST } as const;
    const asked = await ask(one!, keyRequestApi.ask, { site }, asking);
    expect((await refused(two!, keyRequestApi.agree, { site, id: asked.id }, {})).status).toBe(422);
    await ask(two!, keyRequestApi.agree, { site, id: asked.id }, { part: SECOND });
    const [made] = await ask(one!, keyBackupApi.list, { site });
    expect(made).toMatchObject({ firstBy: 'iris', secondBy: 'tobias', rehearsedAt: null });
    backup = await ask(two!, keyBackupApi.file, { site, id: made.id });
    const found = openJwe(backup.jwe, `${FIRST}\n${SECOND}`);
    const supplier = found.keys.find((key) => key.rawbits_name === 'Supplier')!;
    expect(Buffer.from(supplier.k, 'base64url').toString('hex').toUpperCase()).toBe(TYPED);
    expect(found.keys).toHaveLength(made.keys);
  });

  it('a backup is rehearsed, which changes nothing; a wrong or damaged one is refused', async () => {
    const { jwe } = backup;
    const open = { jwe, first: FIRST, second: SECOND };
    const report = await ask(two!, keyBackupApi.rehearse, { site }, open);
    expect(report.keys.every((key: { standing: string }) => key.standing === 'same')).toBe(true);
    expect(report.missing).toEqual([]);
    expect((await ask(one!, keyBackupApi.list, { site }))[0].rehearsedBy).toBe('tobias');
    const parts = jwe.split('.');
    const hostile = Buffer.from(
      JSON.stringify({ ...JSON.parse(Buffer.from(parts[0]!, 'base64url').toString()), p2c: 2_000_000_000 }),
    ).toString('base64url');
    for (const [name, tried] of Object.entries({
      'in the other order': { ...open, first: SECOND, second: FIRST },
      'cut off': { ...open, jwe: `${jwe.slice(0, -8)}AAAAAAAA` },
      'asking for endless work': { ...open, jwe: [hostile, ...parts.slice(1)].join('.') },
      'not encrypted': { ...open, jwe: JSON.stringify({ keys: [] }) },
    })) {
      const began = Date.now();
      const { status } = await refused(two!, keyBackupApi.rehearse, { site }, tried);
      expect([name, status === 422 || status === 429, Date.now() - began < 60_000]).toEqual([name, true, true]);
    }
  });

  it('keys come in from a JWK Set, all or nothing', async () => {
    const entry = (name: string, byte: number, more = {}) => ({
      kty: 'oct',
      kid: name,
      k: Buffer.from(bytesOf(TYPED, 'key').map((b) => b ^ byte)).toString('base64url'),
      rawbits_kind: 'aes128',
      rawbits_set: 'From the canteen',
      ...more,
    });
    const take = (keys: object[]) => ({ text: JSON.stringify({ keys }) });
    const taken = await ask(one!, keyApi.import, { site }, take([entry('Till', 1), entry('Stock', 2)]));
    expect(taken.keys.map((k: { standing: string }) => k.standing)).toEqual(['new', 'new']);
    const again = await ask(one!, keyApi.import, { site }, take([entry('Till', 1)]));
    expect(again.keys.map((k: { standing: string }) => k.standing)).toEqual(['same']);
    const clash = await refused(one!, keyApi.import, { site }, take([entry('More', 3), entry('Till', 9)]));
    expect([clash.status, clash.body.error.code]).toEqual([409, 'key-differs']);
    const before = await stored('SELECT envelope FROM key_versions ORDER BY key_id, version');
    const alike = await refused(one!, keyApi.import, { site }, take([entry('TILL', 9)]));
    expect([alike.body.error.code, alike.body.error.message]).toEqual([
      'key-differs',
      expect.stringContaining('much like it'),
    ]);
    expect(await stored('SELECT envelope FROM key_versions ORDER BY key_id, version')).toEqual(before);
    for (const bad of [
      [entry('Short', 1, { k: 'AAAA' })],
      [entry('Twice', 1), entry('Twice', 2)],
      [entry('X', 1, { kty: 'RSA' })],
      [],
    ])
      expect((await refused(one!, keyApi.import, { site }, take(bad))).status).toBe(422);
    expect((await refused(one!, keyApi.import, { site }, { text: `{"k":"${TYPED}"` })).body.error.message).toBe(
      'The file is not JSON.',
    );
    const sets = await ask(one!, keyApi.list, { site });
    expect(
      sets.find((s: { name: string }) => s.name === 'From the canteen').keys.map((k: { name: string }) => k.name),
    ).toEqual(['Stock', 'Till']);
  });

  it('a file of one’s own making is no way to try keys: it is compared by what everybody sees', async () => {
    const { id, versions } = await add('Turnstile', { how: 'made' }, 'sector');
    const open = await house.server.app.vault.open(site);
    const [row] = await stored('SELECT * FROM key_versions WHERE key_id = ?', [id]);
    const bytes = open.open(row!.envelope, ['key', set, id, 'Turnstile', 'sector', '1']);
    const entry = (k: Uint8Array) => ({
      kty: 'oct',
      k: Buffer.from(k).toString('base64url'),
      rawbits_set: 'Staff cards',
      rawbits_name: 'Turnstile',
      rawbits_kind: 'sector',
    });
    const same = await ask(one!, keyApi.import, { site }, { text: JSON.stringify({ keys: [entry(bytes)] }) });
    expect(same.keys).toMatchObject([{ standing: 'same', checkValue: versions[0].checkValue }]);
    const other = bytes.map((byte) => byte ^ 1);
    const refusal = await refused(one!, keyApi.import, { site }, { text: JSON.stringify({ keys: [entry(other)] }) });
    expect(refusal.body.error.code).toBe('key-differs');
    // The file says no more than its check value does: one made elsewhere with that value counts as the same.
    await pool.query('UPDATE key_versions SET check_value = ? WHERE key_id = ?', [checkValueOf('sector', other), id]);
    const judged = await ask(one!, keyApi.import, { site }, { text: JSON.stringify({ keys: [entry(other)] }) });
    expect(judged.keys).toMatchObject([{ standing: 'same' }]);
  });

  it('components that together are not the key that is wanted are refused, and their key’s value is not told', async () => {
    const comes = { how: 'components', parts: 2, check: '123456' };
    const { id } = await add('Wanted', comes);
    const at = { site, id, version: '1' };
    await one!.ask(keyApi.give, at, { how: 'made' });
    const wrong = await refused(two!, keyApi.give, at, { how: 'made' });
    expect(wrong.body.error).toMatchObject({ code: 'check-value' });
    expect(wrong.body.error.message.match(/[0-9A-F]{6}/g)).toEqual(['123456']);
    expect(await stored('SELECT part FROM key_components WHERE key_id = ?', [id])).toHaveLength(1);
    await ask(two!, keyApi.giveUp, at).catch(() => ask(one!, keyApi.giveUp, at));
    expect(await stored('SELECT part FROM key_components WHERE key_id = ?', [id])).toEqual([]);
  });

  it('cards of a range carry a version, and the counts follow when they carry another', async () => {
    await house.administrator.do('PUT', `/sites/${site}/formats/26-8-16`);
    for (const number of [101, 102, 103])
      await house.administrator.do('POST', `/sites/${site}/cards`, {
        formatId: '26-8-16',
        facility: '7',
        number: String(number),
      });
    const { id } = await add('On cards', { how: 'made' });
    await ask(one!, keyApi.addVersion, { site, id }, { version: 2, comes: { how: 'made' } });
    const range = { formatId: '26-8-16', facility: '7', from: '101', to: '103' };
    expect(await ask(one!, keyApi.carriers, { site, id, version: '1' }, range)).toEqual({ cards: 3 });
    await ask(one!, keyApi.carriers, { site, id, version: '2' }, { ...range, to: '102' });
    await ask(one!, keyApi.carriers, { site, id, version: '2' }, { ...range, to: '101' });
    const all = (await ask(one!, keyApi.list, { site })).flatMap((s: { keys: object[] }) => s.keys);
    const key = all.find((k: { id: string }) => k.id === id);
    expect(key.versions.map((v: { cards: number }) => v.cards)).toEqual([1, 2]);
  });

  it('a reader carries a key, a partner was given it, and neither any more', async () => {
    const { door } = await furnish(house);
    const { id } = (await ask(one!, keyApi.list, { site })).flatMap((s: { keys: { id: string }[] }) => s.keys)[0];
    const of = { keyId: id, version: 1 };
    await ask(one!, keyHoldingApi.add, { site }, { ...of, kind: 'reader', reader: door } as never);
    const partner = await ask(one!, keyHoldingApi.add, { site }, {
      ...of,
      kind: 'partner',
      partner: 'The canteen',
    } as never);
    expect(
      (await refused(one!, keyHoldingApi.add, { site }, { ...of, kind: 'reader', reader: 'nobody' } as never)).status,
    ).toBe(404);
    const ended = await ask(one!, keyHoldingApi.end, { site, id: partner.id });
    expect(ended.until).not.toBeNull();
  });

  it('locked, it gives nothing; a wrong passphrase is counted, slowed down and in the trail', async () => {
    await ask(two!, keyStoreApi.lock, { site });
    const state = await ask(one!, keyStoreApi.state, { site });
    expect([state.set, state.open, state.servers.map((s: { holds: boolean }) => s.holds)]).toEqual([
      true,
      false,
      [false],
    ]);
    const locked = await refused(one!, keyApi.add, { site }, {
      setId: set,
      name: 'Not now',
      kind: 'aes128',
      purpose: 'read',
      comes: { how: 'made' },
    } as never);
    expect([locked.status, locked.body.error.code]).toEqual([423, 'store-locked']);
    const statuses = [];
    for (let i = 0; i < 5; i++)
      statuses.push((await refused(one!, keyStoreApi.unlock, { site }, { passphrase: `${PASSPHRASE} ${i}` })).status);
    expect([statuses[0], statuses.at(-1)]).toEqual([422, 429]);
    expect((await trail()).filter(({ action }) => action === 'wrong passphrase').length).toBe(
      statuses.filter((s) => s === 422).length,
    );
    await pool.query('DELETE FROM sign_in_failures');
    await ask(one!, keyStoreApi.unlock, { site }, { passphrase: PASSPHRASE });
    expect((await ask(one!, keyStoreApi.state, { site })).openedBy).toBe('iris');
  });

  it('its passphrase is changed: the old one opens it no more, and every key is still there', async () => {
    const next = 'bollard cormorant seven sails';
    expect(
      (await refused(one!, keyStoreApi.changePassphrase, { site }, { current: 'not the right one', next })).status,
    ).toBe(422);
    const before = await stored('SELECT envelope FROM key_versions ORDER BY key_id, version');
    await ask(one!, keyStoreApi.changePassphrase, { site }, { current: PASSPHRASE, next });
    await ask(one!, keyStoreApi.lock, { site });
    expect((await refused(one!, keyStoreApi.unlock, { site }, { passphrase: PASSPHRASE })).status).toBe(422);
    await ask(one!, keyStoreApi.unlock, { site }, { passphrase: next });
    expect(await stored('SELECT envelope FROM key_versions ORDER BY key_id, version')).toEqual(before);
    const report = await ask(two!, keyBackupApi.rehearse, { site }, { jwe: backup.jwe, first: FIRST, second: SECOND });
    expect(report.keys.filter((k: { standing: string }) => k.standing === 'differs')).toEqual([]);
    await ask(one!, keyStoreApi.changePassphrase, { site }, { current: next, next: PASSPHRASE });
  });

  it('what fails inside is logged without what was sent', async () => {
    await pool.query('RENAME TABLE key_holdings TO key_holdings_away');
    const typed = { how: 'typed', hex: TYPED } as const;
    const sent = { setId: set, name: 'Fails', kind: 'aes128', purpose: 'read', comes: typed } as const;
    const { status, body } = await refused(one!, keyApi.add, { site }, sent);
    await pool.query('RENAME TABLE key_holdings_away TO key_holdings');
    expect([status, body.error.code, logged.length > 0]).toEqual([500, 'unexpected', true]);
    expect(await stored("SELECT id FROM `keys` WHERE name = 'Fails'")).toEqual([]);
  });

  it('no key is found in the database, the logs, the state folder, the trail or any answer but those that show it', async () => {
    const found = openJwe(backup.jwe, `${FIRST}\n${SECOND}`);
    const keys = found.keys.map(({ k }) => Buffer.from(k, 'base64url')).filter((key) => !key.every((b) => b === 0));
    expect(keys.length).toBeGreaterThan(8);
    const places = {
      database: await everything(),
      logs: logged.join('\n'),
      files: filesUnder(house.stateFolder),
      trail: JSON.stringify([await trail(), await house.administrator.do('GET', '/house/trail').catch(() => [])]),
      answers: answers.join('\n'),
    };
    expect(places.database).toContain('key_versions');
    expect(places.logs).toContain('level');
    expect(answers.length).toBeGreaterThan(60);
    for (const key of keys)
      for (const [as, text] of Object.entries(waysToWrite(key)))
        for (const [place, content] of Object.entries(places))
          expect([place, as, content.includes(text)]).toEqual([place, as, false]);
    for (const secret of [PASSPHRASE, FIRST, SECOND])
      for (const [place, content] of Object.entries(places))
        expect([place, content.includes(secret)]).toEqual([place, false]);
  });

  it('given up by two, nothing of it is left but its backups, and those bring it back under another passphrase', async () => {
    const asked = await ask(one!, keyRequestApi.ask, { site }, {
      kind: 'abandon',
      reason: 'nobody knows the passphrase any more',
    } as never);
    await ask(two!, keyRequestApi.agree, { site, id: asked.id }, {});
    expect((await ask(one!, keyStoreApi.state, { site })).set).toBe(false);
    expect(await ask(one!, keyApi.list, { site })).toEqual([]);
    await ask(two!, keyStoreApi.make, { site }, { passphrase: 'quite another set of words' });
    const restored = await ask(two!, keyBackupApi.restore, { site }, { jwe: backup.jwe, first: FIRST, second: SECOND });
    expect(new Set(restored.keys.map((k: { standing: string }) => k.standing))).toEqual(new Set(['new']));
    const report = await ask(two!, keyBackupApi.rehearse, { site }, { jwe: backup.jwe, first: FIRST, second: SECOND });
    expect(new Set(report.keys.map((k: { standing: string }) => k.standing))).toEqual(new Set(['same']));
  });

  /** Every row of every table, bytes and all. */
  async function everything(): Promise<string> {
    const tables = await stored(
      'SELECT table_name AS t FROM information_schema.tables WHERE table_schema = DATABASE()',
    );
    const all = [];
    for (const { t } of tables) all.push(t, JSON.stringify(await stored('SELECT * FROM ??', [t])));
    return all.join('\n');
  }
});

const filesUnder = (folder: string): string =>
  readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .map((name) => join(folder, name))
    .filter((path) => statSync(path).isFile())
    .map((path) => readFileSync(path, 'latin1'))
    .join('\n');

/** A key as it could have been written somewhere. */
const waysToWrite = (key: Buffer): Record<string, string> => ({
  hex: key.toString('hex'),
  'upper-case hex': key.toString('hex').toUpperCase(),
  base64: key.toString('base64').replace(/=+$/, ''),
  base64url: key.toString('base64url'),
  decimal: BigInt(`0x${key.toString('hex')}`).toString(),
  'a list of bytes': [...key].join(','),
});

/** Opens a JWE of RFC 7518 §4.8 step by step with Node's own functions: PBKDF2, AES key wrap (RFC 3394), AES-GCM. */
function openJwe(jwe: string, passphrase: string): { keys: { k: string; rawbits_name: string }[] } {
  const [header, wrapped, vector, text, tag] = jwe.split('.') as [string, string, string, string, string];
  const { alg, enc, p2s, p2c } = JSON.parse(Buffer.from(header, 'base64url').toString());
  expect([alg, enc]).toEqual(['PBES2-HS512+A256KW', 'A256GCM']);
  const salt = Buffer.concat([Buffer.from(`${alg}\0`), Buffer.from(p2s, 'base64url')]);
  const wrapping = pbkdf2Sync(passphrase, salt, p2c, 32, 'sha512');
  const unwrap = createDecipheriv('id-aes256-wrap', wrapping, Buffer.from('A6'.repeat(8), 'hex'));
  const key = Buffer.concat([unwrap.update(Buffer.from(wrapped, 'base64url')), unwrap.final()]);
  const open = createDecipheriv('aes-256-gcm', key, Buffer.from(vector, 'base64url'));
  open.setAAD(Buffer.from(header)).setAuthTag(Buffer.from(tag, 'base64url'));
  return JSON.parse(Buffer.concat([open.update(Buffer.from(text, 'base64url')), open.final()]).toString());
}
