/** The main job at the API: refused, accepted, loaded, issued, opened; and what breaks on the way. */
import { RawBitsError } from '@rawbits/core/failure';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { furnish, type House, holdLoads, loadAndWait, openHouse } from '../../testing/harness.ts';

describe('from an unknown card to an open door', () => {
  let house: House;
  let at: string;
  let ids: Awaited<ReturnType<typeof furnish>>;
  let shed: string;
  beforeEach(async () => {
    house = await openHouse();
    at = `/sites/${house.site}`;
    ids = await furnish(house);
    shed = `${at}/controllers/${ids.controller}`;
  });
  afterEach(() => house.close());
  const present = () => house.administrator.do('POST', `${at}/rig/presentations`, { card: 'boat', reader: ids.door });
  const lastEvent = async () => (await house.administrator.do('GET', `${at}/events`))[0];

  it('each refusal names its step, and Raw Bits says what the controller cannot know', async () => {
    const { administrator } = house;
    await loadAndWait(administrator, shed);
    expect(await present()).toMatchObject({
      outcome: 'refused',
      reason: expect.stringContaining('has 37 bits; it accepts 26 bits'),
    });
    await administrator.do('PUT', `${at}/formats/37-16-19`);
    const waiting = await administrator.do('PUT', `${shed}/formats`, { formats: ['26-8-16', '37-16-19'] });
    expect(waiting).toMatchObject({ standing: 'changes waiting', waitingCount: 1, waiting: [{ change: 'add' }] });
    expect(await loadAndWait(administrator, shed)).toMatchObject({ state: 'done' });
    await present();
    expect(await lastEvent()).toMatchObject({ outcome: 'refused', stoppedAt: 'number', advice: null });
    const holder = await administrator.do('POST', `${at}/cardholders`, { name: 'Oline' });
    const card = await administrator.do('POST', `${at}/cards`, {
      formatId: '37-16-19',
      facility: '2214',
      number: '118406',
      holderId: holder.id,
      state: 'active',
    });
    expect(card).toMatchObject({ loaded: { in: 0, of: 1 } });
    await present();
    expect(await lastEvent()).toMatchObject({
      stoppedAt: 'number',
      advice: 'The card is on file for Oline, but not loaded: load Shed.',
    });
    await loadAndWait(administrator, shed);
    expect(await present()).toMatchObject({ outcome: 'opened' });
    expect(await administrator.do('GET', shed)).toMatchObject({ standing: 'current', loadedCards: 1 });
    expect(await lastEvent()).toMatchObject({ outcome: 'opened', card: { id: card.id, holder: 'Oline' } });
  });

  it('what happened while no server ran is taken in once, by two servers at once', async () => {
    await house.server.close();
    for (let i = 0; i < 5; i++) house.rig.present('boat', 'door');
    const [one, two] = await Promise.all([house.another(), house.another()]);
    for (const server of [one, two]) {
      const person = Object.assign(Object.create(Object.getPrototypeOf(house.administrator)), {
        ...house.administrator,
        port: server.port,
      });
      await expect.poll(async () => (await person.do('GET', `${at}/events`)).length).toBe(5);
      expect((await person.do('GET', `${at}/reads`)).length).toBe(5);
    }
  });

  it('a controller whose memory is not what was loaded differs', async () => {
    await loadAndWait(house.administrator, shed);
    const controller = house.rig.controller('shed');
    controller.changeByHand([['format 26-8-16', null]]);
    expect((await house.administrator.do('GET', shed)).standing).toBe('differs');
  });

  it('a load that breaks off is told, and changes neither the controller nor what is known of it', async () => {
    await loadAndWait(house.administrator, shed);
    const { digest } = house.rig.controller('shed');
    house.rig.controller('shed').commitLoad = () => {
      throw new RawBitsError({ code: 'line', message: 'the line broke' });
    };
    // One more format is a change that waits to be loaded.
    await house.administrator.do('PUT', `/sites/${house.site}/formats/64-0-64`);
    const { wantedFormats } = await house.administrator.do('GET', shed);
    await house.administrator.do('PUT', `${shed}/formats`, { formats: [...wantedFormats, '64-0-64'] });
    expect(await loadAndWait(house.administrator, shed)).toMatchObject({
      state: 'failed',
      message: expect.stringContaining('the line broke'),
    });
    expect(house.rig.controller('shed').digest).toBe(digest);
    expect(await house.administrator.do('GET', shed)).toMatchObject({ standing: 'changes waiting' });
    expect((await lastEvent()).kind).toBe('load failed');
  });

  it('one load at a time', async () => {
    const release = holdLoads([house.server]);
    const answers = await Promise.all([1, 2, 3].map(() => house.administrator.call('POST', `${shed}/loads`)));
    release();
    expect(answers.map((a) => a.status).sort()).toEqual([200, 409, 409]);
  });

  it('an enrolment reader delivers a read and no event', async () => {
    const presented = await house.administrator.do('POST', `${at}/rig/presentations`, {
      card: 'boat',
      reader: ids.pad,
    });
    expect(presented).toMatchObject({ outcome: 'read', eventId: null });
    const [read] = await house.administrator.do('GET', `${at}/reads?search=Pad`);
    expect(read).toMatchObject({ id: presented.readId, source: 'reader', reader: { name: 'Pad' } });
  });

  it('only adopted formats can be accepted, and one in use cannot be given up', async () => {
    expect(
      (await house.administrator.call('PUT', `${shed}/formats`, { formats: ['48-22-23'] })).body.error.where.field,
    ).toBe('formats');
    expect((await house.administrator.call('DELETE', `${at}/formats/26-8-16`)).body.error.code).toBe('in-use');
  });
});

describe('cards', () => {
  let house: House;
  let at: string;
  beforeAll(async () => {
    house = await openHouse();
  });
  afterAll(() => house.close());
  // Each case has a site of its own.
  beforeEach(async () => {
    at = `/sites/${(await house.administrator.do('POST', '/sites', { name: 'A site', shortName: 'A site' })).id}`;
    await house.administrator.do('PUT', `${at}/formats/26-8-16`);
  });
  const add = (card: object) =>
    house.administrator.call('POST', `${at}/cards`, { formatId: '26-8-16', facility: '58', number: '10902', ...card });

  it('the same card cannot stand twice, however its number is written', async () => {
    expect((await add({})).body).toMatchObject({
      number: '10902',
      state: 'in stock',
      bits: expect.stringMatching(/^[01]{26}$/),
    });
    expect((await add({ number: '0010902', facility: '058' })).body.error).toMatchObject({
      code: 'card-on-file',
      where: { field: 'number' },
    });
  });

  it.each([
    [{ number: '65536' }, 'number', 'above 65535'],
    [{ facility: '256' }, 'facility', 'above 255'],
    [{ facility: null }, 'facility', 'carries a facility code'],
    [{ state: 'active' }, 'holderId', 'has a holder'],
    [
      { validFrom: '2026-05-01T00:00:00.000Z', validTo: '2026-04-01T00:00:00.000Z' },
      'validTo',
      'ends before it begins',
    ],
  ])('%j is refused at %s', async (card, field, message) => {
    const { status, body } = await add(card);
    expect([status, body.error.where.field]).toEqual([422, field]);
    expect(body.error.message).toContain(message);
    expect((await house.administrator.do('GET', `${at}/cards`)).total).toBe(0);
  });

  it('of two who change a card at once, the second is told', async () => {
    const { body: card } = await add({});
    const path = `${at}/cards/${card.id}`;
    const answers = await Promise.all(
      ['one', 'two'].map((notes) => house.administrator.call('PATCH', path, { revision: 1, notes })),
    );
    expect(answers.map((a) => a.status).sort()).toEqual([200, 409]);
    expect(answers.find((a) => a.status === 409)!.body.error.code).toBe('changed-meanwhile');
  });
});
