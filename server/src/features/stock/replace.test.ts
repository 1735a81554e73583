/** A card in place of another: holder and days pass on, both change at once, and of two who do it at once one does. */
import { type Card, cardApi, cardholderApi, doorApi } from '@rawbits/api';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { furnish, type House, openHouse } from '../../testing/harness.ts';

describe('a lost card', () => {
  let house: House;
  let site: string;
  let controller: string;
  let old: Card;
  const admin = () => house.administrator;
  const add = (number: string, more: object = {}) =>
    admin().ask(cardApi.add, { site }, { formatId: '26-8-16', facility: '58', number, ...more });
  beforeAll(async () => {
    house = await openHouse();
    ({ site } = house);
    ({ controller } = await furnish(house));
    const holder = await admin().ask(cardholderApi.add, { site }, { name: 'Åse Vik' });
    const validTo = '2031-01-01T00:00:00.000Z';
    old = await add('700', { state: 'active', holderId: holder.id, validTo });
  });
  afterAll(() => house.close());
  const replace = (id: string, body: object) => admin().call('POST', `/sites/${site}/cards/${id}/replacement`, body);
  const body = (by: Card, more: object = {}) => ({
    revision: old.revision,
    state: 'lost',
    reason: 'left on the ferry',
    by: { id: by.id, revision: by.revision },
    ...more,
  });

  it('is replaced from stock: rights pass on, it stops, and both wait for the doors', async () => {
    const fresh = await add('701');
    const { status, body: now } = await replace(old.id, body(fresh));
    expect([status, now.state, now.holder.name, now.validTo]).toEqual([200, 'active', 'Åse Vik', old.validTo]);
    const ended = await admin().ask(cardApi.one, { site, id: old.id });
    expect([ended.state, ended.holder?.name, ended.revision]).toEqual(['lost', 'Åse Vik', 2]);
    const door = await admin().ask(doorApi.one, { site, id: controller });
    expect([door.wantedCards, door.waitingCount >= 2]).toEqual([2, true]);
    const [last] = await admin().ask(cardApi.history, { site, id: old.id });
    expect(last).toMatchObject({ action: 'card replaced', after: { reason: 'left on the ferry', by: 'card 58/701' } });
    const { total } = await admin().do('GET', `/sites/${site}/cards?state=in%20stock`);
    expect(total).toBe(0);
    old = ended;
  });

  it('by a card that is not in stock, or as it was before, it is not', async () => {
    const fresh = await add('702');
    expect((await replace(old.id, body(old))).body.error.code).toBe('not-in-stock');
    expect((await replace(old.id, body(fresh, { revision: 1 }))).body.error.code).toBe('changed-meanwhile');
    expect((await replace(fresh.id, body(old, { revision: 1 }))).status).toBe(422);
    expect((await replace('nobody', body(fresh))).status).toBe(404);
    expect((await admin().ask(cardApi.one, { site, id: fresh.id })).state).toBe('in stock');
  });

  it('of two who give out the same card at once, one does and the other is told', async () => {
    const fresh = await add('703');
    const answers = await Promise.all([replace(old.id, body(fresh)), replace(old.id, body(fresh))]);
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 409]);
  });

  it('a change of state says why, in the record', async () => {
    const { id, revision } = await add('704');
    await admin().ask(cardApi.update, { site, id }, { revision, state: 'withdrawn', reason: 'cut in half' });
    const [last] = await admin().ask(cardApi.history, { site, id });
    expect(last).toMatchObject({ after: { state: 'withdrawn', reason: 'cut in half' } });
  });
});
