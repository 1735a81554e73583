/** Cards from before cards kept their bits get them, where they are certain. */
import { createPool } from 'mysql2/promise';
import { expect, it } from 'vitest';
import { openHouse } from '../../testing/harness.ts';

it('the bits of older cards are filled at the first start, and only where every version agrees', async () => {
  const house = await openHouse();
  const pool = createPool(house.databaseUrl);
  const { administrator, site } = house;
  const at = `/sites/${site}`;
  for (const [id, layout] of [
    ['plain', '8 | 1-8 number'],
    ['moved', '9 | 1-8 number'],
  ] as const) {
    await administrator.do('POST', '/formats', { id, name: id, layout });
    await administrator.do('PUT', `${at}/formats/${id}`);
    await administrator.do('POST', `${at}/cards`, { formatId: id, facility: null, number: '5' });
  }
  await administrator.do('POST', '/formats/moved/versions', {
    name: 'moved',
    layout: '9 | 2-9 number',
    basedOn: 1,
    reason: 'moved',
  });
  // As a database looks that was upgraded from before.
  await pool.query('UPDATE cards SET bits = NULL');
  await pool.query("DELETE FROM installation WHERE name = 'bits of older cards'");
  await house.another();
  const { cards } = await administrator.do('GET', `${at}/cards`);
  const bits = Object.fromEntries(cards.map((c: { formatId: string; bits: string }) => [c.formatId, c.bits]));
  expect(bits).toEqual({ plain: '00000101', moved: null });
  // A dry run does not count what it does not know as the same.
  const run = await administrator.do('POST', `${at}/dry-runs`, { kind: 'drop', format: 'moved' });
  await expect
    .poll(async () => (await administrator.do('GET', `${at}/dry-runs/${run.id}`)).result?.unknownCards)
    .toBe(1);
  await pool.end();
  await house.close();
});
