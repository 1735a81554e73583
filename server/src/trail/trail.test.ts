/** The trail: every change is in it, and changing, removing or cutting off entries is found. */
import { createPool, type Pool } from 'mysql2/promise';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { type House, openHouse } from '../testing/harness.ts';

describe('the trail', () => {
  let house: House;
  let pool: Pool;
  let at: string;
  beforeEach(async () => {
    house = await openHouse();
    pool = createPool(house.databaseUrl);
    at = `/sites/${house.site}`;
    await house.administrator.do('PUT', `${at}/formats/26-8-16`);
    for (const name of ['A', 'B', 'C']) await house.administrator.do('POST', `${at}/cardholders`, { name });
  });
  afterEach(async () => {
    await pool.end();
    await house.close();
  });
  const verify = () => house.administrator.do('GET', `${at}/trail/verification`);

  it('tells who, when, before and after, and is intact', async () => {
    const card = await house.administrator.do('POST', `${at}/cards`, {
      formatId: '26-8-16',
      facility: '7',
      number: '8',
    });
    await house.administrator.do('PATCH', `${at}/cards/${card.id}`, { revision: 1, notes: 'scuffed' });
    const [latest] = await house.administrator.do('GET', `${at}/trail`);
    expect(latest).toMatchObject({
      operator: 'Admin',
      action: 'card changed',
      subject: 'card 7/8',
      before: { notes: '' },
      after: { notes: 'scuffed' },
    });
    expect(await verify()).toMatchObject({ intact: true, brokenAt: null, entries: 6 });
  });

  it('a change that fails leaves nothing in the trail', async () => {
    const before = (await verify()).entries;
    await house.administrator.call('POST', `${at}/cards`, {
      formatId: '26-8-16',
      facility: '7',
      number: '8',
      holderId: 'nobody',
      state: 'active',
    });
    expect((await verify()).entries).toBe(before);
  });

  it.each([
    ['a changed entry', "UPDATE trail SET operator = 'Somebody else' WHERE chain = ? AND seq = 2", 2],
    ['a removed entry', 'DELETE FROM trail WHERE chain = ? AND seq = 3', 3],
    ['the first entry removed', 'DELETE FROM trail WHERE chain = ? AND seq = 1', 1],
    ['the last entry cut off', 'DELETE FROM trail WHERE chain = ? AND seq = 4', 4],
  ])('%s is found', async (_, statement, brokenAt) => {
    await pool.query(statement, [house.site]);
    expect(await verify()).toMatchObject({ intact: false, brokenAt });
  });

  it('cutting off is found even where the head in the database was set back with it', async () => {
    await pool.query('DELETE FROM trail WHERE chain = ? AND seq = 4', [house.site]);
    const [[last]] = (await pool.query('SELECT hash FROM trail WHERE chain = ? AND seq = 3', [
      house.site,
    ])) as unknown as [[{ hash: string }]];
    await pool.query('UPDATE chains SET trail_seq = 3, trail_head = ? WHERE id = ?', [last.hash, house.site]);
    expect(await verify()).toMatchObject({ intact: false, brokenAt: 4, message: 'Entries 4 to 4 were cut off.' });
  });
});
