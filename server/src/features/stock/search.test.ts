/** Finding cards: numbers as numbers, page by page, by whatever somebody has of a card. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type House, openHouse } from '../../testing/harness.ts';

describe('cards', () => {
  let house: House;
  let at: string;
  // Longer than a double holds exactly (2^53 = 9007199254740992), so that a comparison as numbers would show.
  const big = ['9007199254740993', '9007199254740992', '90071992547409920', '9', '10'];
  beforeAll(async () => {
    house = await openHouse();
    at = `/sites/${house.site}`;
    const { administrator } = house;
    await administrator.do('PUT', `${at}/formats/26-8-16`);
    await administrator.do('POST', '/formats', { id: 'long', name: 'Long', layout: '64 | 1-64 number' });
    await administrator.do('PUT', `${at}/formats/long`);
    const oline = await administrator.do('POST', `${at}/cardholders`, { name: 'Oline Strand' });
    for (const number of big)
      await administrator.do('POST', `${at}/cards`, { formatId: 'long', facility: null, number });
    for (let i = 0; i < 25; i++)
      await administrator.do('POST', `${at}/cards`, {
        formatId: '26-8-16',
        facility: '58',
        number: String(1020 + i),
        printed: `S-${2000 + i}`,
        ...(i === 3 && { holderId: oline.id, state: 'active' }),
      });
  });
  afterAll(() => house.close());
  const find = (query: string) => house.administrator.do('GET', `${at}/cards?${query}`);
  const numbers = (page: { cards: { number: string }[] }) => page.cards.map(({ number }) => number);

  it('stand by number as numbers do, past 2^53 too', async () => {
    const page = await find('order=number&limit=1000');
    expect(numbers(page)).toEqual(numbers(page).sort((a, b) => (BigInt(a) < BigInt(b) ? -1 : 1)));
    expect([page.total, page.more, page.next, page.foundBy]).toEqual([30, false, null, []]);
  });

  it.each([
    ['9007199254740993-9007199254740993', 'range', ['9007199254740993']],
    ['9 - 10', 'range', ['9', '10']],
    ['9007199254740992 to 90071992547409920', 'range', ['9007199254740992', '9007199254740993', '90071992547409920']],
    ['0x20000000000001', 'number in hex', ['9007199254740993']],
    ['104', 'number', ['1040', '1041', '1042', '1043', '1044']],
    ['58/1021', 'code and number', ['1021']],
    ['S-2007', 'print', ['1027']],
    ['stra', 'holder', ['1023']],
    ['Oline', 'holder', ['1023']],
    ['nobody at all', '', []],
  ])('are found by %s, and it is said that it is the %s', async (search, by, found) => {
    const page = await find(`search=${encodeURIComponent(search)}`);
    expect([numbers(page), page.total]).toEqual([found, found.length]);
    expect(page.foundBy).toEqual(found.map(() => by));
  });

  it('are found by their raw bits, as hex and as binary digits', async () => {
    const [card] = (await find('search=58/1030')).cards;
    const hex = BigInt(`0b${card.bits}`).toString(16).padStart(7, '0');
    for (const search of [card.bits, `26 bits 0x${hex}`])
      expect(numbers(await find(`search=${encodeURIComponent(search)}`))).toContain('1030');
  });

  it.each([
    'order=newest',
    'order=number',
    'search=1',
    'state=in%20stock',
  ])('%s: pages give each card once', async (query) => {
    const whole = await find(`${query}&limit=1000`);
    const seen: string[] = [];
    for (let after: string | null = ''; after !== null; ) {
      const page: { cards: { id: string }[]; next: string | null; total: number } = await find(
        `${query}&limit=4${after && `&after=${encodeURIComponent(after)}`}`,
      );
      expect([page.cards.length <= 4, page.total]).toEqual([true, whole.total]);
      seen.push(...page.cards.map(({ id }) => id));
      after = page.next;
    }
    expect(seen).toEqual(whole.cards.map(({ id }: { id: string }) => id));
    expect(new Set(seen).size).toBe(whole.total);
  });

  it('a page that no page led to is refused', async () => {
    const { status, body } = await house.administrator.call('GET', `${at}/cards?after=W10`);
    expect([status, body.error.where.field]).toEqual([422, 'after']);
  });

  it('are counted as they change state', async () => {
    const [card] = (await find('search=58/1023')).cards;
    await house.administrator.do('PATCH', `${at}/cards/${card.id}`, { revision: card.revision, state: 'lost' });
    expect([(await find('state=lost')).total, (await find('state=active')).total, (await find('')).total]).toEqual([
      1, 0, 30,
    ]);
  });
});
