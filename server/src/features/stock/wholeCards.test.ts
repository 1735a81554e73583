/** A card of an unknown format, held by its whole string: lets its holder in, and gains its number when the format is found. */
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { wholeLayout } from '@rawbits/core/format';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { BOAT_BITS, furnish, type House, loadAndWait, openHouse, type Person } from '../../testing/harness.ts';

const FOUND = '26-8-16';
const bitsOf = (number: string): string => encode(catalogued(FOUND)!, { facility: '58', number }).toBinary();

describe('a card by its whole string', () => {
  let house: House;
  let admin: Person;
  let at: string;
  let ids: Awaited<ReturnType<typeof furnish>>;
  const cards: { id: string; revision: number }[] = [];
  beforeAll(async () => {
    house = await openHouse();
    admin = house.administrator;
    at = `/sites/${house.site}`;
    ids = await furnish(house);
    await admin.do('POST', '/formats', { id: '26-0-26', name: '26 bits, whole', layout: wholeLayout(26) });
    await admin.do('PUT', `${at}/formats/26-0-26`);
    for (const [i, bits] of [
      bitsOf('1'),
      bitsOf('2'),
      bitsOf('3').replace(/.$/, (bit) => (bit === '1' ? '0' : '1')),
    ].entries()) {
      const { id: holderId } = await admin.do('POST', `${at}/cardholders`, { name: `Guest ${i}` });
      const number = BigInt(`0b${bits}`).toString();
      cards.push(
        await admin.do('POST', `${at}/cards`, {
          formatId: '26-0-26',
          facility: null,
          number,
          holderId,
          state: 'active',
        }),
      );
    }
  });
  afterAll(() => house.close());
  const review = () => admin.do('GET', `${at}/formats/${FOUND}/whole-cards`);
  const give = (some: object[]) => admin.call('POST', `${at}/formats/${FOUND}/whole-cards`, { cards: some });

  it('lets its holder in where the door takes such strings, and is refused when it has gained its number elsewhere', async () => {
    const outcome = async () => {
      await loadAndWait(admin, `${at}/controllers/${ids.controller}`);
      return (await admin.do('POST', `${at}/rig/presentations`, { card: 'boat', reader: ids.door })).outcome;
    };
    await admin.do('POST', '/formats', { id: '37-0-37', name: '37 bits, whole', layout: wholeLayout(37) });
    for (const format of ['37-0-37', '37-16-19']) await admin.do('PUT', `${at}/formats/${format}`);
    const { id: holderId } = await admin.do('POST', `${at}/cardholders`, { name: 'Boatman' });
    const number = BigInt(`0b${BOAT_BITS}`).toString();
    await admin.do('POST', `${at}/cards`, { formatId: '37-0-37', facility: null, number, holderId, state: 'active' });
    await admin.do('PUT', `${at}/controllers/${ids.controller}/formats`, { formats: ['37-0-37'] });
    expect(await outcome()).toBe('opened');
    const { cards: read } = await admin.do('GET', `${at}/formats/37-16-19/whole-cards`);
    expect(read).toMatchObject([{ facility: '2214', number: '118406', holder: { name: 'Boatman' } }]);
    await admin.do('POST', `${at}/formats/37-16-19/whole-cards`, {
      cards: read.map(({ id, revision }: any) => ({ id, revision })),
    });
    expect(await outcome()).toBe('refused');
    await admin.do('PUT', `${at}/controllers/${ids.controller}/formats`, { formats: ['37-16-19'] });
    expect(await outcome()).toBe('opened');
  });

  it('gains its number by the format that reads it; one whose parity fails stays as it is', async () => {
    const told = await review();
    expect(told.others).toBe(1);
    expect(told.cards.map(({ facility, number, refused }: any) => [facility, number, refused])).toEqual([
      ['58', '1', null],
      ['58', '2', null],
    ]);
    const [first] = told.cards;
    expect((await give([{ id: first.id, revision: first.revision + 1 }])).status).toBe(409);
    expect((await give([{ id: cards[2]!.id, revision: 1 }])).status).toBe(409);
    const moving = told.cards.map(({ id, revision }: any) => ({ id, revision }));
    expect((await give([moving[0], moving[0]])).status).toBe(422);
    const both = await Promise.all([give(moving), give(moving)]);
    expect(both.map(({ status }) => status).sort()).toEqual([200, 409]);
    expect(await admin.do('GET', `${at}/cards/${first.id}`)).toMatchObject({
      ...{ formatId: FOUND, facility: '58', number: '1', bits: bitsOf('1'), state: 'active' },
      holder: { name: 'Guest 0' },
    });
    expect((await review()).cards).toEqual([]);
    const history = await admin.do('GET', `${at}/cards/${first.id}/history`);
    expect(history.map(({ action }: { action: string }) => action)).toEqual(['card corrected', 'card issued']);
  });

  it('whose number is on file already is told, and none of its company moves', async () => {
    const { id: holderId } = await admin.do('POST', `${at}/cardholders`, { name: 'Late' });
    const held = (number: string) => ({
      formatId: '26-0-26',
      facility: null,
      number: BigInt(`0b${bitsOf(number)}`).toString(),
    });
    for (const number of ['7', '8'])
      await admin.do('POST', `${at}/cards`, { ...held(number), holderId, state: 'active' });
    await admin.do('POST', `${at}/cards`, { formatId: FOUND, facility: '58', number: '8' });
    const { cards: read } = await review();
    expect(read.map(({ refused }: any) => refused)).toEqual([null, 'card 58/8 is on file already.']);
    const all = await give(read.map(({ id, revision }: any) => ({ id, revision })));
    expect([all.status, all.body.error.code]).toEqual([409, 'card-on-file']);
    expect((await review()).cards).toHaveLength(2);
  });
});
