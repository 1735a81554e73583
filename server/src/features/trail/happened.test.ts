/** Events and changes in one order: each once over all pages, with filters and search in the server. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { furnish, type House, loadAndWait, openHouse } from '../../testing/harness.ts';

interface Row {
  kind: 'event' | 'change';
  at: string;
  event?: { id: string; reason: string };
  change?: { name: string; action: string };
}

describe('what happened', () => {
  let house: House;
  let at: string;
  beforeAll(async () => {
    house = await openHouse();
    at = `/sites/${house.site}`;
    const { controller, door } = await furnish(house);
    await loadAndWait(house.administrator, `${at}/controllers/${controller}`);
    for (let i = 0; i < 6; i++) {
      await house.administrator.do('POST', `${at}/rig/presentations`, { card: 'boat', reader: door });
      await house.administrator.do('POST', `${at}/cardholders`, { name: i === 3 ? 'Oline Strand' : `Holder ${i}` });
    }
  });
  afterAll(() => house.close());
  const ask = (query: Record<string, string>): Promise<{ rows: Row[]; next: string | null }> =>
    house.administrator.do('GET', `${at}/happened?${new URLSearchParams(query)}`);
  const keyOf = (row: Row) => row.event?.id ?? row.change!.name;

  it.each(['all', 'events', 'changes'])('%s: newest first, each row once over all pages', async (show) => {
    const whole = await ask({ show, limit: '500' });
    expect(whole.rows.map((row) => row.at)).toEqual(
      whole.rows
        .map((row) => row.at)
        .sort()
        .reverse(),
    );
    const seen: string[] = [];
    for (let after: string | null = ''; after !== null; ) {
      const page: { rows: Row[]; next: string | null } = await ask({ show, limit: '3', ...(after && { after }) });
      seen.push(...page.rows.map(keyOf));
      after = page.next;
    }
    expect(seen).toEqual(whole.rows.map(keyOf));
    expect([new Set(seen).size, whole.rows.some((row) => row.kind === 'event')]).toEqual([
      seen.length,
      show !== 'changes',
    ]);
  });

  it('is searched by words that stand anywhere in a row', async () => {
    expect((await ask({ search: 'strand ADDED' })).rows.map((row) => row.change?.action)).toEqual(['cardholder added']);
    const refused = await ask({ search: 'Shed refused 37' });
    expect(refused.rows.map(({ kind }) => kind)).toEqual(Array(6).fill('event'));
    expect((await ask({ search: '100%' })).rows).toEqual([]);
  });

  it('is limited by instants, of which the last is not in it', async () => {
    const { rows } = await ask({ limit: '500' });
    const middle = rows[7]!.at;
    const [before, after] = [await ask({ to: middle, limit: '500' }), await ask({ from: middle, limit: '500' })];
    expect([...after.rows, ...before.rows].map(keyOf)).toEqual(rows.map(keyOf));
    expect(before.rows.every((row) => row.at < middle)).toBe(true);
  });

  it('a page that no page led to is refused', async () => {
    const { status, body } = await house.administrator.call('GET', `${at}/happened?after=W10`);
    expect([status, body.error.where.field]).toEqual([422, 'after']);
  });
});
