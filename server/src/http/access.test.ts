/** Walks every route: nobody gets in unknown, below their role, or into another site, whatever identifier is tried. */
import { ROLES, type Role } from '@rawbits/core/api';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { furnish, type House, openHouse, Person } from '../testing/harness.ts';
import { allRoutes } from './routes.ts';

const routes = allRoutes(() => undefined);
const guarded = routes.filter((route) => route.needs !== 'nothing');

describe('every route', () => {
  let house: House;
  let otherSite: string;
  let outsider: Person;
  const people = new Map<Role, Person>();
  /** Identifiers that exist at the first site, to be tried from outside. */
  const known: Record<string, string[]> = {};

  beforeAll(async () => {
    house = await openHouse();
    const { administrator, site } = house;
    const { controller, door } = await furnish(house);
    const at = `/sites/${site}`;
    const holder = await administrator.do('POST', `${at}/cardholders`, { name: 'H' });
    const card = await administrator.do('POST', `${at}/cards`, { formatId: '26-8-16', facility: '1', number: '2' });
    for (const role of ROLES.slice(0, 3)) people.set(role, await house.person(role.replace(' ', '-'), role));
    const operators = await administrator.do('GET', `${at}/operators`);
    known.id = [controller, door, holder.id, card.id, operators[0].id];
    known.format = ['26-8-16'];
    otherSite = (await administrator.do('POST', '/sites', { name: 'Other', shortName: 'Other' })).id;
    await administrator.do('POST', `/sites/${otherSite}/operators`, {
      login: 'outsider',
      name: 'Outsider',
      role: 'administrator',
      password: 'first-of-the-outsider',
    });
    outsider = new Person(house.server.port);
    await outsider.signIn('outsider', 'first-of-the-outsider');
    await outsider.do('POST', '/session/password', {
      current: 'first-of-the-outsider',
      next: 'second-of-the-outsider',
    });
  });
  afterAll(() => house.close());

  const pathOf = (path: string, site: string, id = 'nothing') =>
    path.replace('{site}', site).replace('{id}', id).replace('{format}', '26-8-16');
  const request = (person: Person, route: (typeof routes)[number], path: string) =>
    person.call(route.method.toUpperCase(), path, route.method === 'get' ? undefined : {});

  it('is written down', () => {
    expect(guarded.length).toBeGreaterThan(35);
    expect(routes.filter((r) => r.needs === 'nothing').map((r) => r.path)).toEqual(['/session', '/setup']);
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

  const withRole = guarded.filter((r) => ROLES.includes(r.needs as Role) && r.needs !== 'viewer');
  it.each(
    withRole.map((r) => [`${r.method} ${r.path}`, r] as const),
  )('%s: each role below gets 403', async (_, route) => {
    for (const role of ROLES.slice(0, ROLES.indexOf(route.needs as Role))) {
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

  it('a foreign identifier inside a body is refused, too', async () => {
    const [controller, door, holder] = known.id!;
    const at = `/sites/${otherSite}`;
    await outsider.do('PUT', `${at}/formats/26-8-16`);
    const refused = [
      await outsider.call('POST', `${at}/cards`, {
        formatId: '26-8-16',
        facility: '1',
        number: '3',
        holderId: holder,
        state: 'active',
      }),
      await outsider.call('POST', `${at}/readers`, { name: 'R', kind: 'door', device: 'r', controllerId: controller }),
      await outsider.call('POST', `${at}/rig/presentations`, { card: 'boat', reader: door }),
      await outsider.call('PATCH', `${at}/operators/${known.id![4]}`, { roles: { [house.site]: 'administrator' } }),
    ];
    expect(refused.map((r) => r.status)).toEqual([422, 422, 404, 404]);
    expect((await outsider.do('GET', '/session')).sites.map((s: { id: string }) => s.id)).toEqual([otherSite]);
    expect((await outsider.do('GET', `${at}/cards?search=2`)).length).toBe(0);
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
    await administrator.do('PATCH', `/sites/${site}/operators/${shared}`, { roles: { [otherSite]: 'viewer' } });
    expect(
      (
        await outsider.call('POST', `/sites/${otherSite}/operators/${shared}/password`, {
          password: 'taken-over-by-me',
        })
      ).status,
    ).toBe(403);
    expect((await outsider.call('POST', `/sites/${otherSite}/operators/${shared}/close`)).status).toBe(403);
    expect(
      (await outsider.call('PATCH', `/sites/${otherSite}/operators/${id}`, { roles: { [otherSite]: 'viewer' } }))
        .status,
    ).toBe(422);
  });
});
