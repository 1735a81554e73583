/** Keys sealed for a partner: by two custodians, opened by the partner's private key or passphrase alone, and by nothing of ours. */
import { execFileSync } from 'node:child_process';
import { constants, createDecipheriv, generateKeyPairSync, privateDecrypt } from 'node:crypto';
import { keyApi, keyHoldingApi, keyRequestApi, keyStoreApi } from '@rawbits/api';
import { createPool, type Pool, type RowDataPacket } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type House, openHouse, type Person } from '../../testing/harness.ts';

const TYPED = '5C0FFEE11D00DAD15EA5EDBEA75CA1AB';
const { publicKey, privateKey } = generateKeyPairSync('rsa', { modulusLength: 2048 });
const recipient = publicKey.export({ format: 'jwk' });
const content = JSON.stringify({ schema: 'rawbits/plan@1', applications: [] });

/** RFC 7518 §4.3 and §5.3, step by step. */
function opened(jwe: string): any {
  const [header, wrapped, vector, text, tag] = jwe.split('.') as [string, string, string, string, string];
  const bytes = (part: string) => Buffer.from(part, 'base64url');
  const padding = constants.RSA_PKCS1_OAEP_PADDING;
  const key = privateDecrypt({ key: privateKey, padding, oaepHash: 'sha256' }, bytes(wrapped));
  const open = createDecipheriv('aes-256-gcm', key, bytes(vector));
  open.setAAD(Buffer.from(header)).setAuthTag(bytes(tag));
  return JSON.parse(Buffer.concat([open.update(bytes(text)), open.final()]).toString());
}

/** Debian's python3-jwcrypto, with what RFC 7518 §4.8 asks for. */
const openedUnder = (jwe: string, passphrase: string): any => {
  const program = `import sys
from jwcrypto import jwe, jwk
from jwcrypto.common import base64url_encode
token = jwe.JWE(algs=["PBES2-HS512+A256KW", "A256GCM"])
token.deserialize(sys.stdin.read(), jwk.JWK(kty="oct", k=base64url_encode(sys.argv[1])))
print(token.payload.decode())`;
  return JSON.parse(
    execFileSync('/usr/bin/python3', ['-c', program, passphrase], { input: jwe, encoding: 'utf8', stdio: 'pipe' }),
  );
};

describe('keys sealed for a partner', () => {
  let house: House;
  let site: string;
  let [one, two]: Person[] = [];
  let keyId: string;
  let pool: Pool;
  const stored = async (sql: string, values: unknown[] = []) => (await pool.query<RowDataPacket[]>(sql, values))[0];
  beforeAll(async () => {
    house = await openHouse();
    ({ site } = house);
    pool = createPool(house.databaseUrl);
    one = await house.person('iris', 'key custodian');
    two = await house.person('tobias', 'key custodian');
    await one.ask(keyStoreApi.make, { site }, { passphrase: 'kelp under the third winch' });
    const { id: setId } = await one.ask(keyApi.addSet, { site }, { name: 'Staff cards' });
    const comes = { how: 'typed', hex: TYPED } as const;
    const key = { setId, name: 'Canteen', kind: 'aes128', purpose: 'read', comes } as const;
    keyId = (await one.ask(keyApi.add, { site }, key)).id;
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });

  const asking = (more: object = {}) => ({
    kind: 'seal',
    partner: 'Canteen till',
    recipient,
    keys: [{ keyId, version: 1 }],
    content,
    reason: 'the till writes its own balance',
    ...more,
  });

  it('opens for the partner: the part of the plan, and the keys in it; for a changed byte it does not', async () => {
    const asked = await one!.ask(keyRequestApi.ask, { site }, asking() as never);
    expect(asked.what).toBe('Seal for Canteen till: key Staff cards / Canteen, version 1');
    const alone = await one!.call('POST', `/sites/${site}/key-requests/${asked.id}/agree`, {});
    expect(alone.status).toBe(403);
    const early = await one!.call('POST', `/sites/${site}/key-requests/${asked.id}/sealed`);
    expect(early.status).toBe(404);
    await two!.ask(keyRequestApi.agree, { site, id: asked.id }, {});
    const others = await two!.call('POST', `/sites/${site}/key-requests/${asked.id}/sealed`);
    expect(others.status).toBe(403);
    const { jwe } = await one!.ask(keyRequestApi.sealed, { site, id: asked.id });
    expect(opened(jwe)).toEqual({
      plan: JSON.parse(content),
      keys: {
        keys: [
          {
            kty: 'oct',
            kid: 'Canteen',
            k: Buffer.from(TYPED, 'hex').toString('base64url'),
            rawbits_kind: 'aes128',
            rawbits_version: 1,
          },
        ],
      },
    });
    const parts = jwe.split('.');
    const changed = [
      ...parts.slice(0, 3),
      `${parts[3]!.startsWith('A') ? 'B' : 'A'}${parts[3]!.slice(1)}`,
      parts[4],
    ].join('.');
    expect(() => opened(changed)).toThrow();
    expect((await one!.call('POST', `/sites/${site}/key-requests/${asked.id}/sealed`)).status).toBe(404);
    expect((await one!.ask(keyHoldingApi.list, { site })).at(-1)).toMatchObject({
      kind: 'partner',
      holder: 'Canteen till',
    });
  });

  it('under a passphrase it opens for whoever has it, and the passphrase stays nowhere', async () => {
    const passphrase = 'anchor, lentils, third Tuesday';
    const recipient = { passphrase };
    const asked = await one!.ask(keyRequestApi.ask, { site }, asking({ recipient }) as never);
    const kept = async () => JSON.stringify(await stored('SELECT * FROM key_requests'));
    expect(await kept()).not.toContain('lentils');
    await two!.ask(keyRequestApi.agree, { site, id: asked.id }, {});
    const { jwe } = await one!.ask(keyRequestApi.sealed, { site, id: asked.id });
    expect(openedUnder(jwe, passphrase)).toMatchObject({
      plan: JSON.parse(content),
      keys: { keys: [{ kid: 'Canteen', k: Buffer.from(TYPED, 'hex').toString('base64url') }] },
    });
    expect(() => openedUnder(jwe, `${passphrase}s`)).toThrow();
    const [row] = await stored('SELECT sealed, about FROM key_requests WHERE id = ?', [asked.id]);
    expect(row).toEqual({ sealed: null, about: null });
  });

  it('it is taken in by its passphrase: the keys into a set, by the names of the plan; for a changed byte nothing', async () => {
    const passphrase = 'barnacle, envelope, no lanterns';
    const keys = [{ keyId, version: 1, as: 'till' }];
    const asked = await one!.ask(keyRequestApi.ask, { site }, asking({ recipient: { passphrase }, keys }) as never);
    await two!.ask(keyRequestApi.agree, { site, id: asked.id }, {});
    const { jwe } = await one!.ask(keyRequestApi.sealed, { site, id: asked.id });
    const before = await one!.ask(keyApi.list, { site });
    const take = (more: object) =>
      one!.call('POST', `/sites/${site}/keys/sealed`, { jwe, passphrase, set: 'From the station', ...more });
    const changed = jwe.replace(/.(?=[^.]*$)/, (c) => (c === 'A' ? 'B' : 'A'));
    for (const wrong of [{ jwe: changed }, { passphrase: 'barnacle' }]) {
      const refused = await take(wrong);
      expect([refused.status, refused.body.error.message]).toEqual([422, 'The sealed file does not open.']);
    }
    expect(await one!.ask(keyApi.list, { site })).toEqual(before);
    const taken = await take({});
    expect(taken.body).toMatchObject({ plan: JSON.parse(content) });
    expect(JSON.stringify(taken.body)).not.toContain(Buffer.from(TYPED, 'hex').toString('base64url'));
    const set = (await one!.ask(keyApi.list, { site })).find(({ name }) => name === 'From the station');
    const [mine] = before[0]!.keys;
    expect(set).toMatchObject({
      name: 'From the station',
      keys: [{ name: 'till', versions: [{ checkValue: mine!.versions[0]!.checkValue, origin: 'imported' }] }],
    });
  });

  it.each([
    ['a private key', () => ({ recipient: privateKey.export({ format: 'jwk' }) }), 'This is the private key'],
    [
      'what is no key',
      () => ({ recipient: { kty: 'EC', crv: 'P-256', x: 'AA', y: 'AA' } }),
      'Nothing can be encrypted to this key',
    ],
    [
      'a short key of RSA',
      () => ({ recipient: generateKeyPairSync('rsa', { modulusLength: 1024 }).publicKey.export({ format: 'jwk' }) }),
      'Nothing can be encrypted',
    ],
    ['an easy passphrase', () => ({ recipient: { passphrase: 'aaaaaaaaaaaaaaaa' } }), 'too few different'],
    ['a key that is not there', () => ({ keys: [{ keyId: 'none', version: 1 }] }), 'no such key'],
  ])('%s is refused when it is asked for', async (_, more, told) => {
    const answer = await one!.call('POST', `/sites/${site}/key-requests`, asking(more()));
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(answer.body.error.message).toContain(told);
  });

  it('the settings of a reader are sealed with its keys just so', async () => {
    const reader = { reader: 'Main entrance', settings: { reads: 'file', application: '5A0001' } };
    const passphrase = 'seven gulls on the slip';
    const more = { recipient: { passphrase }, content: JSON.stringify(reader) };
    const asked = await one!.ask(keyRequestApi.ask, { site }, asking(more) as never);
    await two!.ask(keyRequestApi.agree, { site, id: asked.id }, {});
    const { jwe } = await one!.ask(keyRequestApi.sealed, { site, id: asked.id });
    const held = openedUnder(jwe, passphrase);
    expect(held).toMatchObject({ reader, keys: { keys: [{ kid: 'Canteen' }] } });
    expect(held).not.toHaveProperty('plan');
    const taken = await one!.call('POST', `/sites/${site}/keys/sealed`, { jwe, passphrase, set: 'Theirs' });
    expect([taken.status, taken.body.error.message]).toEqual([
      422,
      'What is sealed in it is not a plan with its keys.',
    ]);
  });
});
