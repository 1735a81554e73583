/** Permissions: a custodian stands beside the others; what concerns one takes two; tokens have what they were given. */
import { permissionsOf, ROLES } from '@rawbits/api';
import { createPool, type Pool } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type House, openHouse, Person } from '../../testing/harness.ts';

const FIRST = 'ropes and knots and tar';

describe('permissions', () => {
  let house: House;
  let pool: Pool;
  let at: string;
  let second: Person;
  let custodian: Person;
  let custodianId: string;
  beforeAll(async () => {
    house = await openHouse();
    pool = createPool(house.databaseUrl);
    at = `/sites/${house.site}`;
    custodian = await house.person('keeper', 'key custodian');
    second = new Person(house.server.port);
    await second.signIn('second-admin');
    custodianId = (await custodian.do('GET', '/session')).operator.id;
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });
  const trail = async () =>
    (await house.administrator.do('GET', `${at}/trail`)) as { action: string; after: unknown }[];
  const open = (person: Person) => person.do('GET', `${at}/approvals`);

  it('neither of administrator and key custodian may all that the other may', () => {
    const [custody, administration] = [permissionsOf(['key custodian']), permissionsOf(['administrator'])];
    expect([administration.has('hold keys'), custody.has('manage operators'), custody.has('keep cards')]).toEqual([
      false,
      false,
      false,
    ]);
    for (const role of ROLES) expect(permissionsOf([role]).has('see the site')).toBe(true);
    expect(permissionsOf(['technician', 'key custodian']).has('keep cards')).toBe(true);
  });

  it.each([
    ['a reset password', 'POST', '/password', { password: FIRST }],
    ['closing', 'POST', '/close', undefined],
    ['other roles', 'PATCH', '', 'roles'],
  ] as const)('%s of a custodian waits for a second person, and until then nothing is done', async (_, method, path, body) => {
    const { administrator, site } = house;
    const sent = body === 'roles' ? { roles: { [site]: ['viewer'] } } : body;
    const { awaiting } = await administrator.do(method, `${at}/operators/${custodianId}${path}`, sent);
    expect(awaiting).toMatchObject({ askedBy: 'Admin', mayAgree: false });
    expect((await custodian.do('GET', '/session')).sites[0].roles).toEqual(['key custodian']);
    // Neither who asked nor whom it is about can be the second.
    for (const person of [administrator, custodian])
      expect((await person.call('POST', `${at}/approvals/${awaiting.id}/agree`)).status).toBe(403);
    expect((await open(second)).map((a: { mayAgree: boolean }) => a.mayAgree)).toEqual([true]);
    await second.do('POST', `${at}/approvals/${awaiting.id}/refuse`);
    expect((await second.call('POST', `${at}/approvals/${awaiting.id}/agree`)).status).toBe(404);
    expect([await open(second), (await trail())[0]!.action]).toEqual([[], 'refused']);
    const [[row]] = (await pool.query('SELECT act FROM approvals WHERE id = ?', [awaiting.id])) as unknown as [
      [{ act: string | null }],
    ];
    expect(row.act).toBeNull();
  });

  it('with a second person it is done, once, and both stand in the trail', async () => {
    const { awaiting } = await house.administrator.do('POST', `${at}/operators/${custodianId}/password`, {
      password: FIRST,
    });
    const answers = await Promise.all([1, 2, 3].map(() => second.call('POST', `${at}/approvals/${awaiting.id}/agree`)));
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 404, 404]);
    const entries = (await trail()).filter(({ action }) => action === 'password reset');
    expect(entries.map(({ after }) => after)).toEqual([{ askedBy: 'Admin', agreedBy: 'second-admin' }]);
    expect((await custodian.call('GET', '/session')).status).toBe(401);
    await custodian.signIn('keeper', FIRST);
    await custodian.do('POST', '/session/password', { current: FIRST, next: `${FIRST} again` });
    expect(JSON.stringify(await trail())).not.toContain('argon2');
  });

  it('another custodian can be the second person, and who asked must still be who they were', async () => {
    const { administrator, site } = house;
    const added = await second.do('POST', `${at}/operators`, {
      login: 'other-keeper',
      name: 'Other keeper',
      roles: ['key custodian', 'technician'],
      password: FIRST,
    });
    const secondId = (await second.do('GET', '/session')).operator.id;
    await administrator.do('PATCH', `${at}/operators/${secondId}`, { roles: { [site]: ['technician'] } });
    const agree = () => custodian.call('POST', `${at}/approvals/${added.awaiting.id}/agree`);
    expect((await agree()).body.error.code).toBe('asker-gone');
    await administrator.do('PATCH', `${at}/operators/${secondId}`, { roles: { [site]: ['administrator'] } });
    expect((await agree()).status).toBe(200);
    const operators = await administrator.do('GET', `${at}/operators`);
    expect(operators.find((o: { login: string }) => o.login === 'other-keeper').roles.sort()).toEqual([
      'key custodian',
      'technician',
    ]);
  });

  it('what nobody agreed to in time can be agreed to no more, and its password’s hash is forgotten', async () => {
    const { awaiting } = await house.administrator.do('POST', `${at}/operators/${custodianId}/password`, {
      password: FIRST,
    });
    await pool.query('UPDATE approvals SET ends_at = NOW(3) - INTERVAL 1 SECOND WHERE id = ?', [awaiting.id]);
    expect((await second.call('POST', `${at}/approvals/${awaiting.id}/agree`)).status).toBe(404);
    await house.server.housekeep();
    const [rows] = await pool.query('SELECT state, act FROM approvals WHERE id = ?', [awaiting.id]);
    expect(rows).toEqual([{ state: 'refused', act: null }]);
  });

  it('a role changed for another site stands in that site’s record, which is whole', async () => {
    const { administrator, site } = house;
    const { id: other } = await administrator.do('POST', '/sites', { name: 'Gull Holm', shortName: 'Gull' });
    const secondId = (await second.do('GET', '/session')).operator.id;
    await administrator.do('PATCH', `${at}/operators/${secondId}`, {
      roles: { [other]: ['viewer'], [site]: ['administrator'] },
    });
    const [entry] = await administrator.do('GET', `/sites/${other}/trail`);
    expect(entry).toMatchObject({
      action: 'operator’s role changed',
      subject: 'operator second-admin',
      after: ['viewer'],
    });
    for (const of of [other, site])
      expect((await administrator.do('GET', `/sites/${of}/trail/verification`)).intact).toBe(true);
  });
});

describe('tokens', () => {
  let house: House;
  let at: string;
  beforeAll(async () => {
    house = await openHouse();
    at = `/sites/${house.site}`;
  });
  afterAll(() => house.close());
  const bearer = (text: string) => {
    const script = new Person(house.server.port);
    return (method: string, path: string, body?: object) =>
      script.call(method, path, body, { authorization: `Bearer ${text}` });
  };
  const make = (body: object = {}) =>
    house.administrator.do('POST', `${at}/tokens`, {
      name: 'nightly',
      permissions: ['see the site'],
      days: 30,
      ...body,
    });

  it('a token does what it was made for, at its site, and nothing else', async () => {
    const { text, token } = await make({ permissions: ['see the site', 'keep cards'] });
    const script = bearer(text);
    expect((await script('GET', `${at}/cards`)).status).toBe(200);
    await script('POST', `${at}/cardholders`, { name: 'H' });
    const [entry] = await house.administrator.do('GET', `${at}/trail`);
    expect([entry.action, entry.operator]).toEqual(['cardholder added', 'Admin, token nightly']);
    for (const [method, path, body] of [
      ['PUT', `${at}/formats/26-8-16`, undefined],
      ['GET', `${at}/operators`, undefined],
      ['GET', `${at}/live`, undefined],
      ['DELETE', '/session', undefined],
      ['POST', '/session/password', { current: 'x', next: FIRST }],
      ['POST', '/sites', { name: 'Elsewhere', shortName: 'E' }],
      ['POST', `${at}/tokens`, { name: 'more', permissions: ['see the site'], days: 1 }],
    ] as const)
      expect([path, (await script(method, path, body)).status]).toEqual([path, 403]);
    const [listed] = await house.administrator.do('GET', `${at}/tokens`);
    expect([listed.id, JSON.stringify(listed).includes(text.slice(-43)), listed.usedAt !== null]).toEqual([
      token.id,
      false,
      true,
    ]);
  });

  it('a token that is wrong, revoked or past its end is nobody, even beside a good cookie', async () => {
    const { text, token } = await make();
    const wrong = `${text.slice(0, -2)}${text.endsWith('AA') ? 'BB' : 'AA'}`;
    for (const bad of [wrong, 'rawbits__', '', `${text}x`, text.toUpperCase()])
      expect([bad, (await bearer(bad)('GET', `${at}/cards`)).status]).toEqual([bad, 401]);
    const beside = await house.administrator.call('GET', `${at}/cards`, undefined, {
      authorization: `Bearer ${wrong}`,
    });
    expect(beside.status).toBe(401);
    await house.administrator.do('POST', `${at}/tokens/${token.id}/revoke`);
    expect((await bearer(text)('GET', `${at}/cards`)).status).toBe(401);
  });

  it('a token never does more than who made it may at the moment', async () => {
    const maker = await house.person('maker', 'administrator');
    const { text } = await maker.do('POST', `${at}/tokens`, {
      name: 't',
      permissions: ['see the site', 'keep cards'],
      days: 1,
    });
    const { id } = (await maker.do('GET', '/session')).operator;
    await house.administrator.do('PATCH', `${at}/operators/${id}`, { roles: { [house.site]: ['viewer'] } });
    const script = bearer(text);
    expect((await script('GET', `${at}/cards`)).status).toBe(200);
    expect((await script('POST', `${at}/cardholders`, { name: 'H' })).status).toBe(403);
    await house.administrator.do('POST', `${at}/operators/${id}/close`);
    expect((await script('GET', `${at}/cards`)).status).toBe(401);
  });

  it.each([
    'hold keys',
    'manage operators',
    'manage tokens',
    'manage sites',
    'agree on custodians',
  ])('no token is given "%s"', async (permission) => {
    const answer = await house.administrator.call('POST', `${at}/tokens`, {
      name: 't',
      permissions: [permission],
      days: 1,
    });
    expect(answer.status).toBe(422);
  });
});
