/** A card that was entered wrongly: corrected or taken back, at the doors too, with what it was before. */
import { createPool } from 'mysql2/promise';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { furnish, type House, loadAndWait, openHouse } from '../../testing/harness.ts';

describe('a card entered wrongly', () => {
  let house: House;
  let at: string;
  let shed: string;
  let door: string;
  let holderId: string;
  beforeEach(async () => {
    house = await openHouse();
    at = `/sites/${house.site}`;
    const ids = await furnish(house);
    ({ door } = ids);
    shed = `${at}/controllers/${ids.controller}`;
    const { administrator } = house;
    await administrator.do('PUT', `${at}/formats/37-16-19`);
    await administrator.do('PUT', `${shed}/formats`, { formats: ['26-8-16', '37-16-19'] });
    holderId = (await administrator.do('POST', `${at}/cardholders`, { name: 'Oline' })).id;
  });
  afterEach(() => house.close());
  const person = () => house.administrator;
  const present = async () =>
    (await person().do('POST', `${at}/rig/presentations`, { card: 'boat', reader: door })).outcome;
  const enter = (number: string, more = {}) =>
    person().do('POST', `${at}/cards`, {
      formatId: '37-16-19',
      facility: '2214',
      number,
      holderId,
      state: 'active',
      ...more,
    });

  it('with a digit too few is corrected, and the door opens for the card in the hand', async () => {
    const wrong = await enter('18406');
    await loadAndWait(person(), shed);
    expect(await present()).toBe('refused');
    const right = await person().do('PATCH', `${at}/cards/${wrong.id}`, { revision: 1, number: '118406' });
    expect(right).toMatchObject({
      id: wrong.id,
      number: '118406',
      holder: { name: 'Oline' },
      loaded: { in: 0, of: 1 },
    });
    expect(right.bits).not.toBe(wrong.bits);
    await loadAndWait(person(), shed);
    expect(await present()).toBe('opened');
    expect(await person().do('GET', shed)).toMatchObject({ standing: 'current', loadedCards: 1 });
    const history = await person().do('GET', `${at}/cards/${wrong.id}/history`);
    expect(history.map(({ action, subject }: Record<string, string>) => [action, subject])).toEqual([
      ['card corrected', 'card 2214/118406'],
      ['card issued', 'card 2214/18406'],
    ]);
  });

  it('under another format is corrected: a door that takes only the one it had forgets it', async () => {
    await person().do('PUT', `${shed}/formats`, { formats: ['37-16-19'] });
    const wrong = await enter('1023');
    await loadAndWait(person(), shed);
    expect(await person().do('GET', shed)).toMatchObject({ loadedCards: 1 });
    const right = await person().do('PATCH', `${at}/cards/${wrong.id}`, {
      revision: 1,
      formatId: '26-8-16',
      facility: '58',
      number: '1023',
    });
    expect(right).toMatchObject({ formatId: '26-8-16', facility: '58', loaded: { of: 0 } });
    expect(right.bits).toHaveLength(26);
    await loadAndWait(person(), shed);
    expect(await person().do('GET', shed)).toMatchObject({ standing: 'current', loadedCards: 0 });
    expect((await person().do('GET', `${at}/cards?state=active`)).total).toBe(1);
  });

  it('is corrected to nothing that cannot be, and to no number that is on file; then it is as it was', async () => {
    const card = await enter('18406');
    await enter('118406');
    const to = (change: object) => person().call('PATCH', `${at}/cards/${card.id}`, { revision: 1, ...change });
    const taken = await to({ number: '118406', notes: 'half' });
    expect([taken.status, taken.body.error.code]).toEqual([409, 'card-on-file']);
    const great = await to({ number: '600000' });
    expect([great.status, great.body.error.where.field]).toEqual([422, 'number']);
    const codeless = await to({ facility: null });
    expect([codeless.status, codeless.body.error.where.field]).toEqual([422, 'facility']);
    expect(await person().do('GET', `${at}/cards/${card.id}`)).toMatchObject({
      number: '18406',
      notes: '',
      revision: 1,
    });
  });

  it('is taken back: off the file, off the doors, its bits free again, and in the trail', async () => {
    const card = await enter('118406');
    await loadAndWait(person(), shed);
    expect(await present()).toBe('opened');
    await person().do('DELETE', `${at}/cards/${card.id}?revision=1`);
    expect((await person().call('GET', `${at}/cards/${card.id}`)).status).toBe(404);
    expect((await person().do('GET', `${at}/cards?bits=${card.bits}`)).cards).toEqual([]);
    expect(await person().do('GET', shed)).toMatchObject({ standing: 'changes waiting', waitingCount: 1 });
    await loadAndWait(person(), shed);
    expect(await present()).toBe('refused');
    const [entry] = await person()
      .do('GET', `${at}/trail`)
      .then((all) => all.filter((e: { action: string }) => e.action === 'card taken back'));
    expect(entry).toMatchObject({ subject: 'card 2214/118406', before: { holderId, state: 'active' } });
    const again = await enter('118406');
    expect((await person().do('GET', `${at}/cards?bits=${again.bits}`)).cards).toHaveLength(1);
    // What another card of that number was is not the history of this one.
    expect(await person().do('GET', `${at}/cards/${again.id}/history`)).toHaveLength(1);
    expect((await person().do('GET', `${at}/cards`)).total).toBe(1);
  });

  it('whose number stands on a chip, or is to be written onto one, is neither corrected nor taken back', async () => {
    const pool = createPool(house.databaseUrl);
    const [written, held, freed] = [await enter('18406'), await enter('18407'), await enter('18408')];
    const encoded = (uid: string, card: string, state: string) =>
      pool.query(
        `INSERT INTO encoded_cards (site_id, uid, plan_id, version, card_id, state, run_id, seq, \`keys\`, at)
         VALUES (?, ?, 'plan', 1, ?, ?, 'run', 1, '{}', now())`,
        [house.site, uid, card, state],
      );
    await encoded('04A1', written.id, 'whole');
    await encoded('04A2', freed.id, 'given up');
    await pool.query(
      "INSERT INTO run_cards (run_id, seq, site_id, card_id, state, holds) VALUES ('run', 2, ?, ?, 'waiting', ?)",
      [house.site, held.id, held.id],
    );
    await pool.end();
    for (const { id } of [written, held]) {
      const changed = await person().call('PATCH', `${at}/cards/${id}`, { revision: 1, number: '118406' });
      const taken = await person().call('DELETE', `${at}/cards/${id}?revision=1`);
      expect([changed, taken].map(({ status, body }) => [status, body.error.code])).toEqual([
        [409, 'card-encoded'],
        [409, 'card-encoded'],
      ]);
      // All else of it can be changed.
      await person().do('PATCH', `${at}/cards/${id}`, { revision: 1, notes: 'seen' });
    }
    await person().do('DELETE', `${at}/cards/${freed.id}?revision=1`);
  });

  it('is not taken back by whoever saw it before somebody changed it', async () => {
    const card = await enter('18406');
    await person().do('PATCH', `${at}/cards/${card.id}`, { revision: 1, notes: 'given to Oline today' });
    const late = await person().call('DELETE', `${at}/cards/${card.id}?revision=1`);
    expect([late.status, late.body.error.code]).toEqual([409, 'changed-meanwhile']);
    expect((await person().call('DELETE', `${at}/cards/${card.id}`)).status).toBe(422);
    await person().do('DELETE', `${at}/cards/${card.id}?revision=2`);
  });

  it('two who correct one card at once: one does, the other is told', async () => {
    const card = await enter('18406');
    const answers = await Promise.all(
      ['118406', '118407'].map((number) => person().call('PATCH', `${at}/cards/${card.id}`, { revision: 1, number })),
    );
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 409]);
  });
});
