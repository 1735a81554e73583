/** Filters of the cards, held against the cards themselves; and those that were given a name. */
import { type Card, type CardFilter, type cardPageSchema, filterApi } from '@rawbits/api';
import { createPool, type Pool } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { z } from 'zod';
import { furnish, type House, openHouse } from '../../testing/harness.ts';

type CardPage = z.infer<typeof cardPageSchema>;

describe('filters', () => {
  let house: House;
  let site: string;
  let pool: Pool;
  let groups: string[];
  const seen = new Map<string, string>();
  const inGroup = new Map<string, Set<string>>();
  beforeAll(async () => {
    house = await openHouse();
    ({ site } = house);
    await furnish(house);
    pool = createPool(house.databaseUrl);
    const admin = house.administrator;
    const post = (path: string, body: object) => admin.do('POST', `/sites/${site}/${path}`, body);
    groups = [];
    for (const name of ['Divers', 'Nights'])
      groups.push((await post('access/changes', { change: { kind: 'group', id: null, name, rights: [] } })).id);
    const people: string[] = [];
    for (const name of ['A', 'B', 'C', 'D']) people.push((await post('cardholders', { name })).id);
    const into = (group: string, holders: string[]) =>
      post('access/memberships', { change: { kind: 'members', add: [group], remove: [], holders } });
    await into(groups[0]!, [people[0]!, people[1]!]);
    await into(groups[1]!, [people[1]!]);
    for (let i = 0; i < 40; i++) {
      const holder = i % 3 === 0 ? null : people[i % 4]!;
      const card = await post('cards', {
        ...{ formatId: '26-8-16', facility: i % 2 ? '58' : '77', number: String(500 + i), holderId: holder },
        state: holder ? 'active' : 'in stock',
      });
      const own = holder && i % 8 === 7 ? [groups[1]!] : [];
      if (own.length > 0) await post('access/memberships', { change: { kind: 'card', id: card.id, groups: own } });
      const theirs = holder === people[0] ? [groups[0]!] : holder === people[1] ? groups : [];
      inGroup.set(card.id, new Set(holder ? [...own, ...theirs] : []));
      if (i % 5 === 0) {
        const at = `2026-0${1 + (i % 9)}-15 12:00:00.000`;
        seen.set(card.id, new Date(`${at.replace(' ', 'T')}Z`).toISOString());
        await pool.query(
          "INSERT INTO events (id, site_id, at, kind, reason, card_id) VALUES (?, ?, ?, 'presented', '', ?)",
          [`event ${i}`, site, at, card.id],
        );
      }
    }
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });
  const list = (query: object): Promise<CardPage> => {
    const given = Object.entries(query).filter(([, value]) => value !== undefined);
    return house.administrator.do(
      'GET',
      `/sites/${site}/cards?${new URLSearchParams(given.map(([k, v]): [string, string] => [k, String(v)]))}`,
    );
  };
  const found = async (filter: CardFilter & { limit?: number }) => {
    const cards: Card[] = [];
    let total: number | undefined;
    for (let after: string | undefined; ; ) {
      const page = await list({ limit: 7, ...filter, after });
      cards.push(...page.cards);
      total ??= page.total;
      if (page.next === null) return { total, ids: cards.map(({ id }) => id).sort() };
      after = page.next;
    }
  };

  it('narrow the cards to those that have all of it, page by page, and count them', async () => {
    const all = (await list({ limit: 1000 })).cards;
    const since = '2026-04-01T00:00:00.000Z';
    const wasSeen = ({ id }: Card) => (seen.get(id) ?? '') >= since;
    const cases: [CardFilter, (card: Card) => boolean][] = [
      [{ group: groups[0]! }, ({ id }) => inGroup.get(id)!.has(groups[0]!)],
      [{ group: groups[1]! }, ({ id }) => inGroup.get(id)!.has(groups[1]!)],
      [{ seenSince: since }, wasSeen],
      [{ notSeenSince: since }, (card) => !wasSeen(card)],
      [{ facility: '058', state: 'active' }, ({ facility, state }) => facility === '58' && state === 'active'],
      [{ formatId: '26-8-16', search: '51' }, ({ number }) => number.startsWith('51')],
      [
        { facility: '77', notSeenSince: since, group: groups[0]! },
        (card) => card.facility === '77' && !wasSeen(card) && inGroup.get(card.id)!.has(groups[0]!),
      ],
      [{ formatId: '37-none' }, () => false],
    ];
    for (const [filter, is] of cases) {
      const wanted = all.filter(is).map(({ id }) => id);
      expect([filter, await found(filter)]).toEqual([filter, { total: wanted.length, ids: wanted.sort() }]);
    }
  });

  it('are kept by name for everybody at the site, replaced by that name, and taken away', async () => {
    const admin = house.administrator;
    const kept = () => admin.ask(filterApi.list, { site });
    await admin.ask(filterApi.save, { site }, { name: 'Divers', filter: { group: groups[0]! } });
    await admin.ask(filterApi.save, { site }, { name: 'Divers', filter: { group: groups[0]!, state: 'active' } });
    expect(await kept()).toMatchObject([{ name: 'Divers', filter: { group: groups[0], state: 'active' } }]);
    const odd = await admin.call('PUT', `/sites/${site}/card-filters`, { name: 'X', filter: { colour: 'red' } });
    expect(odd.status).toBe(422);
    await admin.ask(filterApi.remove, { site, id: (await kept())[0]!.id });
    expect(await kept()).toEqual([]);
  });
});
