/** What is said of a card and the doors is what the controllers hold, not what is only saved. */
import { accessApi, type Card, cardApi, cardholderApi, doorApi, formatApi, rigApi } from '@rawbits/api';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { acceptByDryRun, eventually, furnish, type House, loadAndWait, openHouse } from '../../testing/harness.ts';
import { controllerItemTable } from './index.ts';

describe('which doors a card opens', () => {
  let house: House;
  let site: string;
  let shed: string;
  const people: { [name: string]: string } = {};
  const load = () => loadAndWait(house.administrator, `/sites/${site}/controllers/${shed}`);
  const one = (id: string) => house.administrator.ask(cardApi.one, { site, id });
  const change = async (id: string, body: object): Promise<Card> =>
    house.administrator.do('PATCH', `/sites/${site}/cards/${id}`, { revision: (await one(id)).revision, ...body });
  const doors = ({ opens }: Card) => opens.doors.map(({ name }) => name);
  const enter = (number: string, holder: string, more: object = {}) =>
    house.administrator.ask(
      cardApi.add,
      { site },
      { ...{ formatId: '26-8-16', facility: '58', number, state: 'active', holderId: people[holder]! }, ...more },
    );

  beforeAll(async () => {
    house = await openHouse();
    site = house.site;
    shed = (await furnish(house)).controller;
    for (const name of ['Ragna', 'Isak'])
      people[name] = (await house.administrator.ask(cardholderApi.add, { site }, { name })).id;
  });
  afterAll(() => house.close());

  it('none until it is loaded, and still the same once it is lost, until that is loaded', async () => {
    const card = await enter('100', 'Ragna');
    expect([doors(card), card.loaded]).toEqual([[], { in: 0, of: 1 }]);
    await load();
    expect(doors(await one(card.id))).toEqual(['Shed door']);
    expect(doors(await change(card.id, { state: 'lost' }))).toEqual(['Shed door']);
    await load();
    expect(doors(await one(card.id))).toEqual([]);
    // And the other way round: a card that was found again opens nothing yet.
    expect(doors(await change(card.id, { state: 'active' }))).toEqual([]);
    await load();
    expect(doors(await one(card.id))).toEqual(['Shed door']);
  });

  it('as it was entered wrongly, until the correction is loaded', async () => {
    const card = await enter('200', 'Ragna');
    await load();
    // The controller has 200, the card in the hand says 202.
    expect(doors(await change(card.id, { number: '202' }))).toEqual([]);
    const other = await enter('200', 'Isak', { state: 'issued' });
    // And whoever is on file as 200 now would come in with what the controller has of the first.
    expect((await one(other.id)).opens.doors).toEqual([{ id: expect.any(String), name: 'Shed door' }]);
    await load();
    expect([doors(await one(card.id)), doors(await one(other.id))]).toEqual([['Shed door'], []]);
  });

  it('what was loaded before its content was kept is known by its hash, or said not to be known', async () => {
    const card = await enter('300', 'Ragna');
    await load();
    const { db } = house.server.app;
    await db
      .update(controllerItemTable)
      .set({ content: null })
      .where(eq(controllerItemTable.item, `card ${card.id}`));
    expect((await one(card.id)).opens).toMatchObject({ doors: [{ name: 'Shed door' }], unknownAt: [] });
    expect((await change(card.id, { state: 'lost' })).opens).toMatchObject({ doors: [], unknownAt: ['Shed'] });
  });

  it('a read carries what was decided on it; what would be decided now goes by what is loaded', async () => {
    const card = await enter('350', 'Isak');
    const { administrator } = house;
    const bits = card.bits!;
    await administrator.ask(
      rigApi.setUp,
      { site },
      {
        cards: [{ id: 'mine', shape: 'card', printed: '350', look: '', bits }],
        readers: [
          { id: 'door', controller: 'shed' },
          { id: 'pad', controller: null },
        ],
        controllers: [{ id: 'shed' }],
      },
    );
    const newest = async () => (await administrator.do('GET', `/sites/${site}/reads`))[0];
    const read = async (reader: string) => {
      const { id } = house.rig.present('mine', reader);
      return eventually(newest, (one) => one?.id === `r-${id}`);
    };
    const now = () =>
      administrator.do<{ outcome: string; reason: string }[]>('GET', `/sites/${site}/decisions?bits=${bits}`);
    expect(await now()).toMatchObject([{ door: { name: 'Shed door' }, outcome: 'refused', stoppedAt: 'number' }]);
    const refused = await read('door');
    expect(refused.decision).toMatchObject({
      outcome: 'refused',
      stoppedAt: 'number',
      advice: expect.stringContaining('load Shed'),
    });
    await load();
    expect(await now()).toMatchObject([
      { outcome: 'opened', reason: 'Number 350, facility code 58, is on file and active.' },
    ]);
    // What was decided stays what it was.
    expect((await newest()).decision).toEqual(refused.decision);
    expect((await read('door')).decision).toMatchObject({ outcome: 'opened', stoppedAt: null });
    expect((await read('pad')).decision).toBeNull();
    await change(card.id, { state: 'lost' });
    expect(await now()).toMatchObject([{ outcome: 'opened' }]);
    await load();
    expect(await now()).toMatchObject([
      { outcome: 'refused', stoppedAt: 'state', reason: 'The card is lost, not active.' },
    ]);
  });

  it('only those that its groups let through at some hour', async () => {
    const card = await enter('400', 'Isak');
    const { doors: all } = await house.administrator.ask(accessApi.all, { site });
    const guard = { kind: 'door' as const, id: all[0]!.id, name: 'Shed door', byGroups: true };
    const body = { change: { ...guard, readers: [{ id: all[0]!.readers[0]!.id, way: 'in' as const }] } };
    const { seen } = await house.administrator.ask(accessApi.review, { site }, body);
    await house.administrator.ask(accessApi.save, { site }, { ...body, seen });
    await load();
    expect(doors(await one(card.id))).toEqual([]);
    const open = { change: { ...body.change, byGroups: false } };
    const review = await house.administrator.ask(accessApi.review, { site }, open);
    await house.administrator.ask(accessApi.save, { site }, { ...open, seen: review.seen });
    // Saved only: the door still asks for groups.
    expect(doors(await one(card.id))).toEqual([]);
    await load();
    expect(doors(await one(card.id))).toEqual(['Shed door']);
  });

  it('a lost card whose bits say another person’s card in a second format: said beforehand, and afterwards', async () => {
    const { administrator } = house;
    const mine = await enter('500', 'Ragna');
    // The same bits under the format without a facility code: 58 × 65,536 + 500.
    await administrator.ask(formatApi.adopt, { site, format: '26-0-24' });
    await enter(String(58 * 65536 + 500), 'Isak', { formatId: '26-0-24', facility: null });
    expect(encode(catalogued('26-0-24')!, { number: String(58 * 65536 + 500) }).toBinary()).toBe(mine.bits);
    const both = { formats: ['26-8-16', '26-0-24'] };
    // A second format of one length goes by a dry run, which shows whom it takes for whom.
    const refused = await administrator.call('PUT', `/sites/${site}/controllers/${shed}/formats`, both);
    expect([refused.status, refused.body.error?.code]).toEqual([409, 'dry-run-first']);
    expect(refused.body.error.message).toContain('26-0-24');
    await acceptByDryRun(administrator, site, shed, both.formats);
    await load();
    const also = { door: 'Shed door', card: String(58 * 65536 + 500), holder: 'Isak', format: '26-0-24' };
    expect((await one(mine.id)).opens.asOther).toEqual([also]);
    const lost = await change(mine.id, { state: 'lost' });
    expect(lost.opens.asOther).toEqual([also]);
    await load();
    expect((await one(mine.id)).opens).toMatchObject({ doors: [{ name: 'Shed door' }], asOther: [also] });
  });

  it('a card whose format was given up is still taken out where it was changed and changed back before the load', async () => {
    const { administrator } = house;
    const [card] = (await administrator.do('GET', `/sites/${site}/cards?formatId=26-0-24`)).cards;
    const holds = () => [...house.rig.controller('shed').entries()].some(([key]) => key === `card ${card.id}`);
    await acceptByDryRun(administrator, site, shed, ['26-8-16']);
    await change(card.id, { state: 'suspended' });
    await change(card.id, { state: 'active' });
    expect([holds(), doors(await one(card.id))]).toEqual([true, ['Shed door']]);
    await load();
    expect([holds(), doors(await one(card.id))]).toEqual([false, []]);
  });

  it('a second format of one length is never saved without a dry run', async () => {
    const { administrator } = house;
    const other = await administrator.ask(doorApi.add, { site }, { name: 'Dock', device: 'dock' });
    const put = (formats: string[]) =>
      administrator.call('PUT', `/sites/${site}/controllers/${other.id}/formats`, { formats });
    expect((await put(['26-8-16', '26-0-24'])).body.error?.code).toBe('dry-run-first');
    expect((await put(['26-8-16'])).status).toBe(200);
    expect((await put(['26-0-24', '26-8-16'])).body.error?.code).toBe('dry-run-first');
    await acceptByDryRun(administrator, site, other.id, ['26-0-24', '26-8-16']);
    // What is there already may stay beside a third of another length.
    await administrator.ask(formatApi.adopt, { site, format: '34-16-16' });
    expect((await put(['26-0-24', '26-8-16', '34-16-16'])).status).toBe(200);
  });
});
