/** Who may pass: decided by the controller alone, reviewed before it is saved, held to what was asserted. */
import {
  type AccessChange,
  type Answer as ApiAnswer,
  accessApi,
  addressOf,
  cardApi,
  cardholderApi,
  doorApi,
  type Params,
  type Route,
  siteApi,
} from '@rawbits/api';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ShiftedClock } from '../../../../rig/src/clock/clock.ts';
import { furnish, type House, loadAndWait, openHouse } from '../../testing/harness.ts';
import { controllerItemTable, controllerWantTable } from '../doors/index.ts';

/** A Tuesday; the clocks of Oslo are an hour ahead of UTC in winter: 20:55 on the wall. */
const EVENING = Date.parse('2026-12-01T19:55:00Z');
const WEEKDAYS = [1, 2, 3, 4, 5];

describe('who may pass', () => {
  let house: House;
  let site: string;
  let shed: string;
  let door: string;
  const people: { [name: string]: string } = {};
  const clock = new ShiftedClock();
  const all = () => house.administrator.ask(accessApi.all, { site });
  const review = (change: AccessChange) => house.administrator.ask(accessApi.review, { site }, { change });
  const isAboutMembers = ({ kind }: AccessChange) => kind === 'members' || kind === 'card';
  const send = (body: { change: AccessChange; seen?: string; breaking?: boolean }) =>
    house.administrator.call(
      'POST',
      `/sites/${site}/access/${isAboutMembers(body.change) ? 'memberships' : 'changes'}`,
      body,
    );
  /** Reviews a change and saves it as it was seen; gives the id of what was made. */
  const save = async (change: AccessChange): Promise<string> => {
    const { seen } = await review(change);
    const { status, body } = await send({ change, seen });
    expect([status, body]).toMatchObject([200, {}]);
    return body.id;
  };
  const present = async () => {
    const { id } = house.rig.present('card', 'door');
    await house.administrator.do('GET', `/sites/${site}/reads`);
    let event: { outcome: string; stoppedAt: string | null; reason: string; advice: string | null } | undefined;
    await expect
      .poll(async () => {
        event = (await house.administrator.do('GET', `/sites/${site}/events`)).find(
          (e: { id: string }) => e.id === `e-${id}`,
        );
        return event;
      })
      .toBeDefined();
    return event!;
  };
  const seen = <T extends Route>(route: T, params: Params<T>, query: Record<string, string | number | undefined>) =>
    house.administrator.do<ApiAnswer<T>>('GET', addressOf(route, params, query));
  const load = () => loadAndWait(house.administrator, `/sites/${site}/controllers/${shed}`);
  const groupOf = (id: string | null, schedule: string, name = 'Divers'): Extract<AccessChange, { kind: 'group' }> => ({
    kind: 'group',
    id,
    name,
    rights: [{ doors: [{ door, ways: ['in'] }], schedule }],
  });

  beforeAll(async () => {
    clock.set(EVENING);
    house = await openHouse(undefined, clock);
    site = house.site;
    const { administrator } = house;
    const ids = await furnish(house);
    shed = ids.controller;
    await administrator.ask(siteApi.update, { site }, { timeZone: 'Europe/Oslo' });
    const bits = encode(catalogued('26-8-16')!, { facility: '58', number: '10233' }).toBinary();
    await administrator.do('PUT', `/sites/${site}/rig`, {
      cards: [{ id: 'card', shape: 'card', printed: '10233', look: '', bits }],
      readers: [{ id: 'door', controller: 'shed' }],
      controllers: [{ id: 'shed' }],
    });
    for (const name of ['Ragna', 'Isak', 'Oline'])
      people[name] = (await administrator.ask(cardholderApi.add, { site }, { name })).id;
    await administrator.ask(
      cardApi.add,
      { site },
      { formatId: '26-8-16', facility: '58', number: '10233', state: 'active', holderId: people.Isak! },
    );
    door = (await all()).doors[0]!.id;
  });
  afterAll(() => house.close());

  it('a door that is not by groups lets any active card through, and its controller holds nothing of groups', async () => {
    await load();
    expect(await present()).toMatchObject({ outcome: 'opened' });
    expect((await all()).doors).toMatchObject([{ name: 'Shed door', byGroups: false, readers: [{ way: 'in' }] }]);
    expect([...house.rig.controller('shed').entries()].filter(([key]) => /^(door|group|calendar)/.test(key))).toEqual(
      [],
    );
  });

  it('a group whose schedule ends in five minutes lets in, and then refuses, without the server', async () => {
    const days = await save({
      kind: 'schedule',
      id: null,
      name: 'Days',
      periods: [{ days: WEEKDAYS, from: '06:00', to: '21:00' }],
      onHolidays: [],
    });
    const divers = await save(groupOf(null, days));
    const guard: AccessChange = {
      kind: 'door',
      id: door,
      name: 'Shed door',
      byGroups: true,
      readers: [{ id: (await all()).doors[0]!.readers[0]!.id, way: 'in' }],
    };
    const seen = await review(guard);
    expect(seen).toMatchObject({
      gains: [],
      losses: [{ door: 'Shed door', way: 'in', people: 1, later: 2, names: ['Isak', 'Oline', 'Ragna'] }],
      controllers: ['Shed'],
    });
    expect(await send({ change: guard })).toMatchObject({ status: 409, body: { error: { code: 'review-first' } } });
    await save(guard);
    await load();
    expect(await present()).toMatchObject({
      stoppedAt: 'group',
      reason: 'Shed door, in: only access groups let anybody pass, and Isak is in none.',
      advice: null,
    });
    const join: AccessChange = { kind: 'members', add: [divers], remove: [], holders: [people.Isak!] };
    expect(await review(join)).toMatchObject({
      gains: [{ people: 1, names: ['Isak'], groups: ['Divers'], when: 'Mon–Fri 06:00–21:00' }],
      losses: [],
    });
    await save(join);
    expect(await present()).toMatchObject({
      stoppedAt: 'group',
      advice: 'The change that lets it pass is on file, but not loaded: load Shed.',
    });
    await load();
    await house.server.close();
    const opensAt = (instant: string) => {
      clock.set(Date.parse(instant));
      house.rig.present('card', 'door');
      return house.rig.isReleased('shed', 'door');
    };
    expect(['2026-12-01T19:55:00Z', '2026-12-01T19:59:30Z', '2026-12-01T20:00:00Z'].map(opensAt)).toEqual([
      true,
      true,
      false,
    ]);
    const server = await house.another();
    Object.assign(house.administrator, { port: server.port });
    expect(await present()).toMatchObject({
      stoppedAt: 'schedule',
      reason: expect.stringMatching(/^Shed door, in: Divers, by Days, does not hold now, Tuesday 2026-12-01 21:0\d\.$/),
    });
  });

  it('what was seen is what is saved: a change in between is told, and nothing is saved', async () => {
    const { schedules, groups } = await all();
    const shorter: AccessChange = {
      kind: 'schedule',
      ...{ id: schedules[0]!.id, revision: schedules[0]!.revision, name: 'Days' },
      ...{ periods: [{ days: WEEKDAYS, from: '06:00', to: '20:00' }], onHolidays: [] },
    };
    const { seen, losses } = await review(shorter);
    expect(losses).toMatchObject([{ people: 1, names: ['Isak'], when: 'Mon–Fri 20:00–21:00' }]);
    await save({ kind: 'members', add: [groups[0]!.id], remove: [], holders: [people.Oline!] });
    expect(await send({ change: shorter, seen })).toMatchObject({ body: { error: { code: 'reviewed-other' } } });
    expect((await all()).schedules[0]!.periods[0]!.to).toBe('21:00');
    await save(shorter);
    const stale = { ...shorter, name: 'Days and more' };
    expect(await send({ change: stale })).toMatchObject({ body: { error: { code: 'changed-meanwhile' } } });
    await save({ kind: 'members', add: [], remove: [groups[0]!.id], holders: [people.Oline!] });
  });

  it('an assertion is held to at every change, with the person, door and minute that break it', async () => {
    const { schedules, groups } = await all();
    const own = await save({ kind: 'group', id: null, name: 'Labs', rights: [] });
    await save({ kind: 'members', add: [own], remove: [], holders: [people.Ragna!] });
    await house.administrator.ask(
      accessApi.assert,
      { site },
      {
        id: null,
        name: 'The shed at night is the divers’',
        but: [groups[0]!.id],
        doors: [door],
        way: 'in',
        during: { periods: [{ days: [1, 2, 3, 4, 5, 6, 7], from: '22:00', to: '06:00' }], onHolidays: 'as other days' },
      },
    );
    expect((await all()).assertions).toMatchObject([{ broken: [] }]);
    await save(groupOf(own, schedules[0]!.id, 'Labs'));
    const late: AccessChange = {
      kind: 'schedule',
      ...{ id: schedules[0]!.id, name: 'Days', periods: [{ days: WEEKDAYS, from: '06:00', to: '22:01' }] },
      onHolidays: [],
    };
    const { seen, breaks } = await review(late);
    expect(breaks).toMatchObject([
      {
        broken: [
          { person: 'Ragna', people: 0, later: 1, group: 'Labs', schedule: 'Days', door: 'Shed door', time: '22:00' },
        ],
      },
    ]);
    expect(await send({ change: late, seen })).toMatchObject({
      status: 409,
      body: { error: { code: 'assertion', message: expect.stringContaining('Ragna could pass Shed door on ') } },
    });
    expect(await send({ change: late, seen, breaking: true })).toMatchObject({ status: 200 });
    expect((await all()).assertions).toMatchObject([{ broken: [{ person: 'Ragna', time: '22:00' }] }]);
    // Who comes into a group that breaks nothing yet may break it.
    await save({ ...late, periods: [{ days: WEEKDAYS, from: '06:00', to: '21:00' }] });
    const nights = await save({ kind: 'group', id: null, name: 'Nights', rights: groupOf(null, 'always').rights });
    const into: AccessChange = { kind: 'members', add: [nights], remove: [], holders: [people.Oline!] };
    expect(await review(into)).toMatchObject({ breaks: [{ broken: [{ person: 'Oline', group: 'Nights' }] }] });
    // Who may pass as one of those who are excepted breaks it by being one of them no more, and gains nothing.
    const [excepted] = groups;
    const members = { kind: 'members' as const, holders: [people.Oline!] };
    await save({ ...members, add: [excepted!.id, nights], remove: [] });
    expect(await review({ ...members, add: [], remove: [excepted!.id] })).toMatchObject({
      gains: [],
      breaks: [{ broken: [{ person: 'Oline', group: 'Nights' }] }],
    });
    await save({ ...members, add: [], remove: [excepted!.id, nights] });
  });

  it('groups hang on a card beside its holder’s; what others go by is not taken away', async () => {
    const { groups, schedules } = await all();
    const nights = groups.find(({ name }) => name === 'Nights')!;
    const [card] = (await house.administrator.do('GET', `/sites/${site}/cards`)).cards;
    expect(await review({ kind: 'card', id: card.id, groups: [nights.id] })).toMatchObject({
      gains: [{ people: 1, names: ['Isak'] }],
    });
    await save({ kind: 'card', id: card.id, groups: [nights.id] });
    await load();
    expect(await present()).toMatchObject({ outcome: 'opened', reason: expect.stringContaining('Nights, by Always.') });
    expect(await send({ change: { kind: 'remove group', id: nights.id } })).toMatchObject({ status: 409 });
    expect(await send({ change: { kind: 'remove schedule', id: schedules[0]!.id } })).toMatchObject({
      body: { error: { code: 'in-use', message: 'Divers, Labs go by this schedule.' } },
    });
    await save({ kind: 'card', id: card.id, groups: [] });
  });

  it('groups of a card pass on to the one that replaces it, and end where it goes to somebody else', async () => {
    const { administrator } = house;
    const nights = (await all()).groups.find(({ name }) => name === 'Nights')!.id;
    const enter = (number: string, more: object = {}) =>
      administrator.ask(cardApi.add, { site }, { formatId: '26-8-16', facility: '58', number, ...more });
    const old = await enter('501', { state: 'active', holderId: people.Ragna! });
    // It breaks what was asserted of the shed at night, and is to.
    const hang: AccessChange = { kind: 'card', id: old.id, groups: [nights] };
    expect(await send({ change: hang, seen: (await review(hang)).seen, breaking: true })).toMatchObject({
      status: 200,
    });
    const fresh = await enter('502');
    const { revision } = await administrator.ask(cardApi.one, { site, id: old.id });
    const by = { id: fresh.id, revision: fresh.revision };
    const replacement = { revision, state: 'lost' as const, reason: '', by };
    const now = await administrator.ask(cardApi.replace, { site, id: old.id }, replacement);
    expect(now.groups).toEqual([nights]);
    const of = await seen(accessApi.ofHolder, { site, id: people.Ragna! }, {});
    expect(of.passages.flatMap(({ through }) => through.map(({ group }) => group))).toContain('Nights, on card 58/502');
    const change = (body: object) => administrator.do('PATCH', `/sites/${site}/cards/${now.id}`, body);
    const given = await change({ revision: now.revision, holderId: people.Oline! });
    expect(given.groups).toEqual([]);
    await change({ revision: given.revision, state: 'in stock', holderId: null });
  });

  it('whoever holds a card with groups of its own beside a plain one passes with both: neither hides the other', async () => {
    const { administrator } = house;
    const { doors, groups } = await all();
    const [barn, nights] = ['Barn', 'Nights'].map((name) => groups.find((group) => group.name === name)?.id);
    expect([barn, doors[0]!.byGroups]).toEqual([undefined, true]);
    const holder = (await administrator.ask(cardholderApi.add, { site }, { name: 'Signe' })).id;
    const enter = (number: string, holderId: string) =>
      administrator.ask(
        cardApi.add,
        { site },
        { formatId: '26-8-16', facility: '58', number, state: 'active', holderId },
      );
    const own = await save({ kind: 'group', id: null, name: 'Barn', rights: [] });
    const colleague = (await administrator.ask(cardholderApi.add, { site }, { name: 'Tora' })).id;
    await enter('601', holder);
    await enter('604', colleague);
    const specials = [await enter('602', holder), await enter('603', holder)];
    for (const id of [holder, colleague]) await save({ kind: 'members', add: [own], remove: [], holders: [id] });
    const empty = await save({ kind: 'group', id: null, name: 'Empty', rights: [] });
    for (const { id } of specials) await save({ kind: 'card', id, groups: [empty] });
    const open = groupOf(own, 'always', 'Barn');
    const gain = { door: doors[0]!.name, way: 'in', people: 2, later: 0, names: ['Signe', 'Tora'] };
    expect((await review(open)).gains).toMatchObject([gain]);
    expect(nights).toBeDefined();
    // Also where the others are withdrawn: their groups pass nowhere any more.
    for (const { id } of specials) {
      const { revision } = await administrator.ask(cardApi.one, { site, id });
      await administrator.do('PATCH', `/sites/${site}/cards/${id}`, { revision, state: 'withdrawn' });
    }
    expect((await review(open)).gains).toMatchObject([gain]);
    expect(await send({ change: open })).toMatchObject({ status: 409, body: { error: { code: 'review-first' } } });
    await send({ change: open, seen: (await review(open)).seen, breaking: true });
    expect((await review(groupOf(own, 'always', 'Barn'))).gains).toEqual([]);
    expect((await review({ ...open, rights: [] })).losses).toMatchObject([gain]);
    await save({ ...open, rights: [] });
    expect(await review(groupOf(empty, 'always', 'Empty'))).toMatchObject({ gains: [] });
  });

  it('a door has two readers of one controller, in and out', async () => {
    const { administrator } = house;
    const other = await administrator.ask(doorApi.add, { site }, { name: 'Dock', device: 'dock' });
    const inside = { name: 'Shed, inside', kind: 'door' as const, device: 'inside', controllerId: shed };
    await administrator.ask(doorApi.addReader, { site }, { ...inside, doorId: door, way: 'out' });
    expect((await all()).doors.find(({ id }) => id === door)!.readers).toMatchObject([{ way: 'in' }, { way: 'out' }]);
    const again = await administrator.call('POST', `/sites/${site}/readers`, { ...inside, device: 'x', doorId: door });
    expect(again.body.error.code).toBe('side-taken');
    const dock = await administrator.ask(
      doorApi.addReader,
      { site },
      { name: 'Dock', kind: 'door', device: 'dock-outside', controllerId: other.id },
    );
    const both: AccessChange = {
      kind: 'door',
      ...{ id: door, name: 'Shed door', byGroups: true },
      readers: [
        { id: (await all()).doors.find(({ id }) => id === door)!.readers[0]!.id, way: 'in' },
        { id: dock.id, way: 'out' },
      ],
    };
    expect(await send({ change: both })).toMatchObject({ status: 422 });
    // The inside reader is given up: it has a door of its own.
    await save({ ...both, readers: both.readers.slice(0, 1) });
    const { doors } = await all();
    expect(doors.map(({ name }) => name)).toEqual(['Dock', 'Shed door', 'Shed, inside']);
    // A door that an assertion names does not go from under it.
    const inner = doors.find(({ name }) => name === 'Shed, inside')!;
    const own = await administrator.ask(
      accessApi.assert,
      { site },
      {
        ...{ id: null, name: 'Nobody leaves at night', but: [], doors: [inner.id], way: 'in' },
        during: { periods: [], onHolidays: [] },
      },
    );
    const paired = { ...both, readers: [both.readers[0]!, { id: inner.readers[0]!.id, way: 'out' as const }] };
    const { seen: known } = await review(paired);
    const refused = await send({ change: paired, seen: known });
    expect([refused.status, refused.body.error?.message]).toEqual([
      409,
      'The assertion "Nobody leaves at night" names Shed, inside, which would be no door any more.',
    ]);
    await administrator.ask(accessApi.withdraw, { site, id: own.id });
  });

  it('holidays and the time zone reach the controller with the next load', async () => {
    await load();
    const standing = async () => (await house.administrator.do('GET', `/sites/${site}/controllers/${shed}`)).waiting;
    expect(await standing()).toEqual([]);
    await save({ kind: 'holidays', holidays: [{ name: 'Midwinter', date: '2026-12-02', yearly: true }] });
    expect(await standing()).toEqual([{ change: 'change', what: 'holidays and time zone' }]);
    await save({ kind: 'holidays', holidays: [] });
    expect(await standing()).toEqual([]);
    await house.administrator.ask(siteApi.update, { site }, { timeZone: 'Europe/Lisbon' });
    expect(await standing()).toEqual([{ change: 'change', what: 'holidays and time zone' }]);
    await house.administrator.ask(siteApi.update, { site }, { timeZone: 'Europe/Oslo' });
    const twice = [1, 2].map((n) => ({ name: String(n), date: '2026-12-02', yearly: false }));
    expect(await send({ change: { kind: 'holidays', holidays: twice } })).toMatchObject({ status: 422 });
  });

  it('changes at once come one after another: what each controller should have is what all of them make', async () => {
    const made = await Promise.all(
      Array.from({ length: 12 }, async (_, i) => {
        const body = {
          change: {
            kind: 'schedule' as const,
            ...{ id: null, name: `At once ${i}`, periods: [{ days: [1], from: '08:00', to: '09:00' }] },
            onHolidays: [],
          },
        };
        const { status, body: answer } = await send(body);
        expect(status).toBe(200);
        return answer.id as string;
      }),
    );
    const groups = await Promise.all(made.map((id, i) => send({ change: groupOf(null, id, `Group ${i}`) })));
    expect(groups.map(({ status }) => status)).toEqual(Array(12).fill(200));
    const { db } = (await house.another()).app;
    const wants = await db.select().from(controllerWantTable);
    const here = wants.filter(({ controllerId }) => controllerId === shed).map(({ item }) => item);
    for (const id of made) expect(here).toContain(`schedule ${id}`);
    await load();
    const items = await db.select().from(controllerItemTable).where(eq(controllerItemTable.controllerId, shed));
    expect(items.filter(({ waits }) => waits)).toEqual([]);
    expect(items.filter(({ item }) => item.startsWith('group ')).length).toBe(
      wants.filter(({ controllerId, item }) => controllerId === shed && item.startsWith('group ')).length,
    );
  });

  it('looked at from the person and from the door', async () => {
    const holder = { site, id: people.Isak! };
    const { passages } = await seen(accessApi.ofHolder, holder, { from: '2026-11-30', at: '2026-12-01T19:00:00Z' });
    const shedIn = passages.find((p) => p.door.id === door)!;
    expect(shedIn).toMatchObject({
      way: 'in',
      open: false,
      now: true,
      through: [{ group: 'Divers', schedule: 'Days' }],
    });
    expect(shedIn.week.map(({ holds }) => holds.length)).toEqual([1, 1, 1, 1, 1, 0, 0]);
    const late = await seen(accessApi.ofHolder, holder, { at: '2026-12-01T20:00:00Z' });
    expect(late.passages.find((p) => p.door.id === door)!.now).toBe(false);
    const ofDoor = await seen(accessApi.ofDoor, { site, id: door }, { from: '2026-11-30' });
    expect(ofDoor.groups.find(({ name }) => name === 'Divers')).toMatchObject({ members: 1 });
    const divers = (await all()).groups.find(({ name }) => name === 'Divers')!;
    expect(await seen(accessApi.members, { site, id: divers.id }, {})).toMatchObject({
      members: [{ name: 'Isak' }],
      next: null,
    });
  });

  it('members of many sets stand by name, page by page', async () => {
    const { groups } = await all();
    const pick = (name: string) => groups.find((group) => group.name === name)!.id;
    const names = Array.from({ length: 30 }, (_, i) => `Member ${String(i).padStart(2, '0')}`);
    const ids: string[] = [];
    for (const name of names) ids.push((await house.administrator.ask(cardholderApi.add, { site }, { name })).id);
    await save({ kind: 'members', add: [pick('Group 1')], remove: [], holders: ids });
    await save({ kind: 'members', add: [pick('Group 2')], remove: [], holders: ids.filter((_, i) => i % 3 === 0) });
    await save({ kind: 'members', add: [pick('Group 3')], remove: [], holders: ids.filter((_, i) => i % 2 === 0) });
    const found: string[] = [];
    for (let after: string | undefined; ; ) {
      const page = await seen(accessApi.members, { site, id: pick('Group 1') }, { limit: 7, after });
      found.push(...page.members.map(({ name }) => name));
      if (page.next === null) break;
      after = page.next;
    }
    expect(found).toEqual(names);
    const counts = (await all()).groups.filter(({ name }) => /^Group [123]$/.test(name)).map(({ members }) => members);
    expect(counts).toEqual([30, 10, 15]);
  });
});
