/** Cardholders by name, page by page, and found among many. */
import { createPool } from 'mysql2/promise';
import { expect, it } from 'vitest';
import { openHouse } from '../../testing/harness.ts';

it('pages of cardholders meet without a gap, equal names too; one is found by the beginning of any word', async () => {
  const house = await openHouse();
  const { administrator, site } = house;
  const pool = createPool(house.databaseUrl);
  const names = [
    ...Array.from({ length: 90 }, (_, i) => `Diver ${String(i % 40).padStart(2, '0')}`),
    'Oline Strand',
    'Åse Östberg',
  ];
  const rows = names.map((name, i) => [`h${String(i).padStart(3, '0')}`, site, name, 'Dive team']);
  await pool.query('INSERT INTO cardholders (id, site_id, name, department) VALUES ?', [rows]);
  await pool.end();
  const list = (query: string) => administrator.do('GET', `/sites/${site}/cardholders?${query}`);
  const seen: string[] = [];
  for (let next: string | null = ''; next !== null; ) {
    const page: { cardholders: { id: string }[]; next: string | null } = await list(
      `limit=7${next && `&after=${next}`}`,
    );
    seen.push(...page.cardholders.map(({ id }) => id));
    ({ next } = page);
  }
  expect(seen).toHaveLength(names.length);
  expect(new Set(seen)).toEqual(new Set(rows.map(([id]) => id)));
  const found = async (search: string) =>
    (await list(`search=${encodeURIComponent(search)}`)).cardholders.map((h: { name: string }) => h.name);
  expect(await found('stra')).toEqual(['Oline Strand']);
  expect(await found('östb')).toEqual(['Åse Östberg']);
  expect(await found('nobody here')).toEqual([]);
  const wrong = await administrator.call('GET', `/sites/${site}/cardholders?after=zz`);
  expect([wrong.status, wrong.body.error.where]).toEqual([422, { field: 'after' }]);
  await house.close();
});
