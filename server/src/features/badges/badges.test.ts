/** What stands on badges: the card in use first, marks by organisation, nobody of another site. */
import { badgeApi } from '@rawbits/api';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { furnish, type House, openHouse } from '../../testing/harness.ts';

/** One white pixel: a PNG of our own. */
const PIXEL = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==';

describe('badges', () => {
  let house: House;
  let site: string;
  beforeAll(async () => {
    house = await openHouse();
    ({ site } = house);
    await furnish(house);
  });
  afterAll(() => house.close());

  it('have the cards of whoever is asked for, the one in use first, in the order that was asked', async () => {
    const admin = house.administrator;
    const people = await Promise.all(
      ['Åse Vik', 'Eli Sand'].map((name) => admin.do('POST', `/sites/${site}/cardholders`, { name })),
    );
    for (const [number, state] of [
      ['1', 'withdrawn'],
      ['2', 'active'],
      ['3', 'lost'],
    ])
      await admin.do('POST', `/sites/${site}/cards`, {
        ...{ formatId: '26-8-16', facility: '58', number, state, holderId: people[0].id },
      });
    const holders = [people[1].id, people[0].id];
    const badges = await admin.ask(badgeApi.of, { site }, { holders });
    expect(badges.map(({ holder, cards }) => [holder.name, cards.map(({ number }) => number)])).toEqual([
      ['Eli Sand', []],
      ['Åse Vik', ['2', expect.any(String), expect.any(String)]],
    ]);
    const stranger = await admin.call('POST', `/sites/${site}/badges`, { holders: [...holders, 'nobody'] });
    expect(stranger.status).toBe(422);
  });

  it('bear the mark of an organisation, however it is written; only a PNG is kept', async () => {
    const admin = house.administrator;
    const put = (organisation: string, data: string | null) =>
      admin.call('PUT', `/sites/${site}/marks`, { organisation, data });
    expect((await put('Kelp Line', PIXEL)).status).toBe(200);
    expect((await put('KELP line', PIXEL)).status).toBe(200);
    expect((await put('', Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"/>').toString('base64'))).status).toBe(
      422,
    );
    const huge = Buffer.from(PIXEL, 'base64');
    huge.writeUInt32BE(60_000, 16);
    expect((await put('', huge.toString('base64'))).body.error.message).toContain('60000 × 1');
    expect((await put('', Buffer.from(PIXEL, 'base64').subarray(0, 17).toString('base64'))).status).toBe(422);
    const marks = () => admin.ask(badgeApi.marks, { site });
    expect(await marks()).toEqual([{ organisation: 'kelp line', data: PIXEL }]);
    await put('Kelp Line', null);
    expect(await marks()).toEqual([]);
  });
});
