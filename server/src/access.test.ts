/** Walks every route: nobody gets in unknown, below their role, or into another site, whatever identifier is tried. */
import { generateKeyPairSync } from 'node:crypto';
import { PERMISSIONS, type Permission, permissionsOf, ROLES, type Role } from '@rawbits/api';
import { createPool, type Pool, type RowDataPacket } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { z } from 'zod';
import { allRoutes } from './app.ts';
import { furnish, type House, loadAndWait, openHouse, Person } from './testing/harness.ts';

const routes = allRoutes(() => undefined as never);
const guarded = routes.filter((route) => route.needs !== 'nothing');

/** Names of fields that hold an identifier of something that belongs to a site. */
const NAMES_A_THING =
  /^(holderId|controllerId|controller|reader|id|roles|facilityId|cardId|caseId|readId|keyId|setId|planId|holders)$/;

function identifiersIn(schema: z.ZodType): string[] {
  const found = new Set<string>();
  const walk = (node: unknown): void => {
    if (node === null || typeof node !== 'object') return;
    const { properties } = node as { properties?: Record<string, unknown> };
    for (const name of Object.keys(properties ?? {})) if (NAMES_A_THING.test(name)) found.add(name);
    for (const inner of Object.values(node)) walk(inner);
  };
  walk(z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' }));
  return [...found];
}

interface Things {
  known: string[];
  first: string;
  own: {
    card: string;
    code: string;
    case: string;
    operator: string;
    key: string;
    plan: string;
    reader: string;
    holder: string;
  };
}
type Tries = (things: Things) => { id?: string; body: unknown }[] | Promise<{ id?: string; body: unknown }[]>;
const forEach = ({ known }: Things, body: (id: string) => unknown, id?: string) =>
  known.map((foreign) => ({ id, body: body(foreign) }));
const CARD = { formatId: '26-8-16', facility: '1' };
const PLAN = {
  schema: 'rawbits/plan@1',
  kind: 'files',
  name: 'P',
  applications: [
    {
      id: '5A0001',
      keys: [null],
      files: [
        {
          kind: 'standard',
          number: 1,
          size: 8,
          rights: { read: 0, write: 0, both: 'never', change: 0 },
          fields: [{ name: 'n', length: 4, content: { is: 'number', of: 'number' } }],
        },
      ],
    },
  ],
};
const RECIPIENT = generateKeyPairSync('ec', { namedCurve: 'P-256' }).publicKey.export({ format: 'jwk' });
let made = 1000;
const SCHEDULE = { kind: 'schedule', name: 'S', periods: [], onHolidays: [] };
const groupWith = (door: string, schedule: string) => ({
  kind: 'group',
  id: null,
  name: 'G',
  rights: [{ doors: [{ door, ways: ['in'] }], schedule }],
});
const assertion = (naming: object) => ({
  ...{ id: null, name: 'A', but: [], doors: ['nothing'], way: 'in', during: { periods: [], onHolidays: [] } },
  ...naming,
});

/** For each route whose body names things: bodies that name the first site's, everything else being in order. */
const FOREIGN: Record<string, Tries> = {
  'post /cards': (things) =>
    forEach(things, (holderId) => ({ ...CARD, number: String(++made), holderId, state: 'active' })),
  'patch /cards/{id}': (things) =>
    forEach(things, (holderId) => ({ revision: 1, holderId, state: 'active' }), things.own.card),
  'post /cards/{id}/replacement': (things) =>
    forEach(things, (id) => ({ revision: 1, state: 'lost', reason: '', by: { id, revision: 1 } }), things.own.card),
  // A row that names somebody of another site is refused as a row (people/sheet.test.ts).
  'post /people-sheet-review': () => [],
  'post /formats/{format}/whole-cards': (things) => forEach(things, (id) => ({ cards: [{ id, revision: 1 }] })),
  'post /people-sheets': (things) => forEach(things, (id) => ({ rows: [{ row: 1, id }], seen: 'x' })),
  'post /badges': (things) => forEach(things, (id) => ({ holders: [id] })),
  'put /card-filters': (things) =>
    ['group', 'box', 'formatId'].flatMap((field) =>
      forEach(things, (id) => ({ name: `F${++made}`, filter: { [field]: id } })),
    ),
  'post /readers': (things) =>
    forEach(things, (controllerId) => ({ name: 'R', kind: 'door', device: `r${++made}`, controllerId })),
  'post /rig/presentations': (things) => forEach(things, (reader) => ({ card: 'boat', reader })),
  // The rig is another site's: nobody else puts it together, whatever devices they name.
  'put /rig': () => [
    { body: { cards: [], readers: [{ id: 'door', controller: null }], controllers: [{ id: 'shed' }] } },
  ],
  'post /dry-runs': (things) => [
    ...forEach(things, (controller) => ({ kind: 'accept', controller, formats: [] })),
    ...forEach(things, (id) => ({ kind: 'facility code', id, code: '9' })),
  ],
  'patch /operators/{id}': ({ known, first, own }) =>
    [...known, own.operator].map((id) => ({ id, body: { roles: { [first]: ['administrator'] } } })),
  'patch /readers/{id}': ({ known, own }) => known.map((controllerId) => ({ id: own.reader, body: { controllerId } })),
  'post /keys': (things) =>
    forEach(things, (setId) => ({ setId, name: 'K', kind: 'aes128', purpose: 'read', comes: { how: 'made' } })),
  'post /key-holdings': ({ known, own }) => [
    ...known.map((keyId) => ({ body: { kind: 'partner', keyId, version: 1, partner: 'P' } })),
    ...known.map((reader) => ({ body: { kind: 'reader', keyId: own.key, version: 1, reader } })),
  ],
  'post /key-requests': (things) => [
    ...forEach(things, (keyId) => ({ kind: 'uncover', keyId, version: 1, reason: 'to see whether it goes' })),
    ...forEach(things, (keyId) => ({
      kind: 'seal',
      partner: 'P',
      recipient: RECIPIENT,
      keys: [{ keyId, version: 1 }],
      content: '{}',
      reason: 'to see whether it goes',
    })),
  ],
  'post /key-use-requests': (things) => [
    ...forEach(things, (keyId) => ({ kind: 'widen', keyId, toReaders: true })),
    ...forEach(things, (id) => ({ kind: 'accept', what: 'key', id })),
    ...forEach(things, (id) => ({ kind: 'accept', what: 'plan', id })),
  ],
  'post /keys/{id}/use/narrow': ({ known, own }) => [
    ...known.map((planId) => ({ id: own.key, body: { plans: [{ planId, version: 1 }] } })),
    { id: own.key, body: { readers: known } },
    { id: own.key, body: { hosts: known } },
  ],
  // Identifiers of applications are no things of a site.
  'post /plans': () => [],
  'post /plans/{id}/versions': ({ known }) =>
    known.map((id) => ({ id, body: { plan: PLAN, basedOn: 1, evenSo: true } })),
  'post /plans/{id}/dry-runs': ({ known }) => known.map((id) => ({ id, body: { plan: PLAN } })),
  'post /runs': (things) => [
    ...forEach(things, (planId) => ({ kind: 'verify', planId, pads: ['rig/rig-pad'] })),
    ...forEach(things, (card) => ({
      kind: 'encode',
      planId: things.own.plan,
      pads: ['rig/rig-pad'],
      cards: { from: 'list', cards: [card] },
    })),
  ],
  // Its runs are what a file says of itself; whose plan it is is looked for.
  'post /exchanges/play': (things) =>
    forEach(things, (id) => ({
      schema: 'rawbits/exchange@2',
      card: '41/201',
      uid: '04A1B2C3D4E500',
      runs: [
        {
          run: id,
          kind: 'encode',
          plan: { id, name: 'Staff card', version: 1, kind: 'files' },
          steps: [{ n: 0, step: { do: 'recognise', application: null }, at: '2026-11-26T10:00:00Z', exchange: [] }],
        },
      ],
    })),
  'put /readers/{id}/plan': (things) => [
    ...forEach(things, (planId) => ({ planId, application: '5A0001', file: 1, field: 'n' }), things.own.reader),
    ...things.known.map((id) => ({
      id,
      body: { planId: things.own.plan, application: '5A0001', file: 1, field: 'n' },
    })),
  ],
  'post /access/changes': (things) => [
    ...forEach(things, (id) => ({ change: { ...SCHEDULE, id } })),
    ...forEach(things, (id) => ({ change: { kind: 'remove schedule', id } })),
    ...forEach(things, (id) => ({ change: { kind: 'remove group', id } })),
    ...forEach(things, (id) => ({ change: { kind: 'group', id, name: 'G', rights: [] } })),
    ...forEach(things, (id) => ({ change: groupWith(id, 'always') })),
    ...forEach(things, (id) => ({ change: groupWith('nothing', id) })),
    ...forEach(things, (id) => ({
      change: { kind: 'door', id, name: 'D', byGroups: true, readers: [{ id, way: 'in' }] },
    })),
  ],
  'post /access/memberships': (things) => [
    ...forEach(things, (id) => ({ change: { kind: 'members', add: [id], holders: [things.own.holder] } })),
    ...forEach(things, (id) => ({ change: { kind: 'members', add: [], holders: [id] } })),
    ...forEach(things, (id) => ({ change: { kind: 'card', id, groups: [] } })),
    ...forEach(things, (id) => ({ change: { kind: 'card', id: things.own.card, groups: [id] } })),
  ],
  'post /access/reviews': (things) => [
    ...forEach(things, (id) => ({ change: { kind: 'members', add: [], holders: [id] } })),
    ...forEach(things, (id) => ({ change: { kind: 'card', id, groups: [] } })),
    ...forEach(things, (id) => ({ change: groupWith(id, 'always') })),
  ],
  'post /access/assertions': (things) => [
    ...forEach(things, (id) => assertion({ id })),
    ...forEach(things, (id) => assertion({ doors: [id] })),
    ...forEach(things, (id) => assertion({ but: [id] })),
  ],
  // Roles by their names are no things of a site.
  'post /operators': () => [],
  'post /cases/{id}/result': ({ known }) =>
    known.map((id) => ({ id, body: { revision: 1, format: { id: '26-8-16' }, standing: 'presumed' } })),
};

describe('every route', () => {
  let house: House;
  let pool: Pool;
  let ownThings: Things['own'];
  const contents = async (sql: string, values: unknown[]) => (await pool.query<RowDataPacket[]>(sql, values))[0];
  /** Everything that the database holds of a site, but for what the rig delivers by itself. */
  /** All that a site has, but for what its servers note by themselves: when a host was heard, numbers of the feed. */
  const contentsOf = async (site: string) => {
    await house.server.app.sealer.now(site);
    const [tables] = await pool.query<RowDataPacket[]>(
      "SELECT table_name AS t FROM information_schema.columns WHERE column_name = 'site_id' AND table_schema = DATABASE()",
    );
    const all = [];
    for (const { t } of tables) all.push([t, await contents('SELECT * FROM ?? WHERE site_id = ?', [t, site])]);
    return JSON.stringify(all, (key, value) => (key === 'heard_at' ? undefined : value));
  };
  let otherSite: string;
  let outsider: Person;
  const people = new Map<Role, Person>();
  /** Identifiers that exist at the first site, to be tried from outside. */
  const known: Record<string, string[]> = {};

  beforeAll(async () => {
    house = await openHouse();
    pool = createPool(house.databaseUrl);
    const { administrator, site } = house;
    const { controller, door } = await furnish(house);
    const at = `/sites/${site}`;
    const holder = await administrator.do('POST', `${at}/cardholders`, { name: 'H' });
    const card = await administrator.do('POST', `${at}/cards`, { formatId: '26-8-16', facility: '1', number: '2' });
    for (const role of ROLES) people.set(role, await house.person(role.replace(' ', '-'), role));
    const operators = await administrator.do('GET', `${at}/operators`);
    const code = await administrator.do('POST', `${at}/facility-codes`, {
      formatId: '26-8-16',
      code: '1',
      name: 'One',
    });
    const opened = await administrator.do('POST', `${at}/cases`, { name: 'Theirs' });
    const keysAt = async (person: Person, path: string) => {
      await person.do('POST', `${path}/key-store`, { passphrase: 'kelp under the third winch' });
      const set = await person.do('POST', `${path}/key-sets`, { name: 'Set' });
      const sent = { setId: set.id, name: 'K', kind: 'aes128', purpose: 'read', comes: { how: 'made' } };
      return { set: set.id as string, key: (await person.do('POST', `${path}/keys`, sent)).id as string };
    };
    const keys = await keysAt(people.get('key custodian')!, at);
    const plan = await administrator.do('POST', `${at}/plans`, { plan: PLAN });
    const access = (change: object) => administrator.do('POST', `${at}/access/changes`, { change });
    const schedule = await access({ ...SCHEDULE, id: null });
    const group = await access({ kind: 'group', id: null, name: 'Theirs', rights: [] });
    known.id = [
      controller,
      door,
      holder.id,
      card.id,
      operators[0].id,
      code.id,
      opened.id,
      keys.set,
      keys.key,
      plan.id,
      schedule.id,
      group.id,
    ];
    known.format = ['26-8-16'];
    otherSite = (await administrator.do('POST', '/sites', { name: 'Other', shortName: 'Other' })).id;
    await administrator.do('POST', `/sites/${otherSite}/operators`, {
      login: 'outsider',
      name: 'Outsider',
      roles: ['administrator'],
      password: 'first-of-the-outsider',
    });
    outsider = new Person(house.server.port);
    await outsider.signIn('outsider', 'first-of-the-outsider');
    await outsider.do('POST', '/session/password', {
      current: 'first-of-the-outsider',
      next: 'second-of-the-outsider',
    });
    const own = `/sites/${otherSite}`;
    await pool.query(
      "INSERT INTO operator_sites (operator_id, site_id, role) SELECT id, ?, 'key custodian' FROM operators WHERE login = 'outsider'",
      [otherSite],
    );
    await outsider.do('PUT', `${own}/formats/26-8-16`);
    ownThings = {
      card: (await outsider.do('POST', `${own}/cards`, { ...CARD, number: '2' })).id,
      code: (await outsider.do('POST', `${own}/facility-codes`, { formatId: '26-8-16', code: '1', name: 'One' })).id,
      case: (await outsider.do('POST', `${own}/cases`, { name: 'Own' })).id,
      operator: (await outsider.do('GET', '/session')).operator.id,
      key: (await keysAt(outsider, own)).key,
      plan: (await outsider.do('POST', `${own}/plans`, { plan: PLAN })).id,
      holder: (await outsider.do('POST', `${own}/cardholders`, { name: 'Own' })).id,
      reader: (await outsider.do('POST', `${own}/readers`, { name: 'Own', kind: 'enrolment', device: 'own' })).id,
    };
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });

  const pathOf = (path: string, site: string, id = 'nothing') =>
    path.replace('{site}', site).replace('{id}', id).replace('{format}', '26-8-16').replace('{version}', '1');
  const request = (person: Person, route: (typeof routes)[number], path: string) =>
    person.call(route.method.toUpperCase(), path, route.method === 'get' ? undefined : {});

  it('is written down', () => {
    expect(guarded.length).toBeGreaterThan(35);
    expect(routes.filter((r) => r.needs === 'nothing').map((r) => r.path)).toEqual(['/session', '/setup', '/setup']);
  });

  it.each(
    guarded.map((r) => [`${r.method} ${r.path}`, r] as const),
  )('%s: an anonymous caller gets 401', async (_, route) => {
    const nobody = new Person(house.server.port);
    const answer = await request(nobody, route, pathOf(route.path, house.site));
    expect(answer.status).toBe(401);
    expect(answer.body.error.code).toBe('signed-out');
    nobody.cookie = 'rawbits_session=made-up';
    expect((await request(nobody, route, pathOf(route.path, house.site))).status).toBe(401);
  });

  const permitted = guarded.filter((r) => r.needs in PERMISSIONS);
  it.each(
    permitted.map((r) => [`${r.method} ${r.path}`, r] as const),
  )('%s: each role that does not allow it gets 403', async (_, route) => {
    for (const role of ROLES) {
      if (permissionsOf([role]).has(route.needs as Permission)) continue;
      const answer = await request(people.get(role)!, route, pathOf(route.path, house.site));
      expect([role, answer.status, answer.body.error.code]).toEqual([role, 403, 'forbidden']);
    }
  });

  const ofSite = guarded.filter((r) => r.path.includes('{site}'));
  it.each(
    ofSite.map((r) => [`${r.method} ${r.path}`, r] as const),
  )('%s: an operator of another site gets nothing', async (_, route) => {
    for (const id of ['nothing', ...known.id!]) {
      const foreign = await request(outsider, route, pathOf(route.path, house.site, id));
      expect([foreign.status, foreign.body.error.message]).toEqual([404, 'There is no such site here.']);
      if (!route.path.includes('{id}')) continue;
      // Their own site in the path, the first site's identifier behind it.
      const smuggled = await request(outsider, route, pathOf(route.path, otherSite, id));
      expect([403, 404, 422]).toContain(smuggled.status);
    }
  });

  it('every route that takes identifiers in its body is tried with foreign ones', () => {
    const naming = ofSite.filter((r) => r.body && identifiersIn(r.body).length > 0);
    const lines = naming.map((r) => `${r.method} ${r.path.replace('/sites/{site}', '')}`);
    // Of these the fields are called as other things are elsewhere.
    expect([...lines, 'put /card-filters'].sort()).toEqual(Object.keys(FOREIGN).sort());
  });

  it.each(
    Object.entries(FOREIGN),
  )('%s: an identifier of another site in a field does nothing there', async (key, bodies) => {
    const [method, path] = key.split(' ') as [string, string];
    const at = `/sites/${otherSite}`;
    const before = await contentsOf(house.site);
    for (const { id, body } of await bodies({ known: known.id!, first: house.site, own: ownThings })) {
      const answer = await outsider.call(
        method.toUpperCase(),
        `${at}${path
          .replace('{id}', id ?? 'nothing')
          .replace('{format}', '26-8-16')
          .replace('{version}', '1')}`,
        body,
      );
      expect([JSON.stringify(body), [403, 404, 409, 422].includes(answer.status)]).toEqual([
        JSON.stringify(body),
        true,
      ]);
    }
    expect(await contentsOf(house.site)).toBe(before);
    expect((await outsider.do('GET', '/session')).sites.map((s: { id: string }) => s.id)).toEqual([otherSite]);
  });

  it('a device of another site is out of reach, by its name and by any address made of it', async () => {
    const at = `/sites/${otherSite}`;
    const before = house.rig.controllerStates;
    for (const device of ['x/../shed', '../shed', 'shed/loads/x', '%2e%2e/shed', 'SHED', 'shed?x', '', 'a'.repeat(41)])
      expect((await outsider.call('POST', `${at}/controllers`, { name: 'C', device })).status).toBe(422);
    // The same name is free at another site, and means another device.
    const same = await outsider.do('POST', `${at}/controllers`, { name: 'Mine', device: 'shed' });
    const load = await loadAndWait(outsider, `${at}/controllers/${same.id}`);
    expect([load.state, load.message]).toEqual([
      'failed',
      'The load stopped: No host of this site offers the device "shed". What the controller had is unchanged.',
    ]);
    expect(same.answers).toBe(false);
    await outsider.do('POST', `${at}/readers`, { name: 'Mine', kind: 'door', device: 'door', controllerId: same.id });
    expect(
      (await outsider.call('POST', `${at}/rig/presentations`, { card: 'boat', reader: known.id![1] })).status,
    ).toBe(404);
    await house.administrator.do('POST', `/sites/${house.site}/rig/presentations`, {
      card: 'boat',
      reader: known.id![1]!,
    });
    expect(await outsider.do('GET', `${at}/reads`)).toEqual([]);
    expect(house.rig.controllerStates).toEqual(before);
  });

  it('an administrator of one site cannot reset or close whoever also works at another', async () => {
    const { administrator, site } = house;
    const [own] = await outsider
      .do('GET', `/sites/${otherSite}/operators`)
      .then((all) => all.filter((o: { login: string }) => o.login === 'outsider'));
    const id = own.id;
    const shared = (await administrator.do('GET', `/sites/${site}/operators`)).find(
      (o: { login: string }) => o.login === 'viewer',
    ).id;
    await administrator.do('PATCH', `/sites/${site}/operators/${shared}`, { roles: { [otherSite]: ['viewer'] } });
    expect(
      (
        await outsider.call('POST', `/sites/${otherSite}/operators/${shared}/password`, {
          password: 'taken-over-by-me',
        })
      ).status,
    ).toBe(403);
    expect((await outsider.call('POST', `/sites/${otherSite}/operators/${shared}/close`)).status).toBe(403);
    expect(
      (await outsider.call('PATCH', `/sites/${otherSite}/operators/${id}`, { roles: { [otherSite]: ['viewer'] } }))
        .status,
    ).toBe(422);
  });

  it('two administrators who demote or close each other at once leave one', async () => {
    const at = `/sites/${house.site}/operators`;
    const people = await Promise.all(['first-admin', 'other-admin'].map((name) => house.person(name, 'administrator')));
    const ids = await Promise.all(people.map(async (p) => (await p.do('GET', '/session')).operator.id));
    const all = await house.administrator.do('GET', at);
    const others = all.filter(
      (o: { roles: string[]; id: string }) => o.roles.includes('administrator') && !ids.includes(o.id),
    );
    for (const { id } of others) await people[0]!.do('PATCH', `${at}/${id}`, { roles: { [house.site]: ['viewer'] } });
    const open = async () =>
      (
        await contents(
          'SELECT COUNT(*) AS n FROM operator_sites s JOIN operators o ON o.id = s.operator_id WHERE s.role = ? AND s.site_id = ? AND o.closed_at IS NULL',
          ['administrator', house.site],
        )
      )[0]!.n;
    const demoted = await Promise.all(
      people.map((p, i) => p.call('PATCH', `${at}/${ids[1 - i]}`, { roles: { [house.site]: ['viewer'] } })),
    );
    expect([await open(), demoted.filter(({ status }) => status === 200).length]).toEqual([1, 1]);
    const left = people[demoted.findIndex(({ status }) => status === 200)]!;
    const gone = ids[1 - people.indexOf(left)];
    await left.do('PATCH', `${at}/${gone}`, { roles: { [house.site]: ['administrator'] } });
    const closed = await Promise.all(people.map((p, i) => p.call('POST', `${at}/${ids[1 - i]}/close`)));
    expect([await open(), closed.filter(({ status }) => status === 200).length]).toEqual([1, 1]);
    expect(closed.find(({ status }) => status !== 200)!.status).toBeGreaterThanOrEqual(401);
  });
});
