/** Cases at the API: kept, changed by one at a time, and made into a format with their cards as evidence. */
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type House, openHouse } from '../../testing/harness.ts';

const specimen = (number: string) => ({
  bits: encode(catalogued('37-16-19')!, { facility: '2214', number }).toBinary(),
  printed: number,
});

describe('cases', () => {
  let house: House;
  let at: string;
  let id: string;
  beforeAll(async () => {
    house = await openHouse();
    at = `/sites/${house.site}`;
    const made = await house.administrator.do('POST', `${at}/cases`, {
      name: 'Box from the boat shed',
      specimens: ['118406', '118931', '131502'].map(specimen),
    });
    id = made.id;
  });
  afterAll(() => house.close());
  const change = (body: object) => house.administrator.call('PATCH', `${at}/cases/${id}`, body);
  const make = (body: object) =>
    house.administrator.call('POST', `${at}/cases/${id}/result`, { standing: 'presumed', ...body });

  it('is listed with its specimens counted, and reopened whole', async () => {
    expect(await house.administrator.do('GET', `${at}/cases`)).toMatchObject([{ id, specimens: 3, formatId: null }]);
    const whole = await house.administrator.do('GET', `${at}/cases/${id}`);
    expect(whole).toMatchObject({ revision: 1, questions: { predict: [], range: null } });
    expect(whole.specimens[2].printed).toBe('131502');
  });

  it('of two changes made from one revision, the second is told', async () => {
    const specimens = [...['118406', '118931', '131502'].map(specimen), { ...specimen('1'), setAside: true }];
    const [a, b] = [await change({ revision: 1, specimens }), await change({ revision: 1, name: 'Other' })];
    expect([a.status, b.status, b.body.error.code]).toEqual([200, 409, 'changed-meanwhile']);
    expect((await change({ revision: 2, specimens: [{ bits: '012' }] })).status).toBe(422);
  });

  it('its format is made for the site, with the cards that fit as evidence, and the facility code named', async () => {
    const nonsense = await make({
      revision: 2,
      format: { id: 'odd-37', name: 'Odd', layout: '37 | 1-36 number | 37 odd 1-3' },
    });
    expect([nonsense.status, nonsense.body.error.where.field]).toEqual([422, 'format']);
    expect(
      (await house.administrator.do('GET', '/formats')).some(
        (f: { format: { id: string } }) => f.format.id === 'odd-37',
      ),
    ).toBe(false);
    const made = await make({ revision: 2, format: { id: '37-16-19' }, facility: { code: '2214', name: 'Boat shed' } });
    expect(made.body).toEqual({ formatId: '37-16-19', version: 1, evidence: 3 });
    const formats = await house.administrator.do('GET', `${at}/formats`);
    expect(formats.find((f: { format: { id: string } }) => f.format.id === '37-16-19')).toMatchObject({
      adopted: true,
      provenOn: 3,
    });
    expect(await house.administrator.do('GET', `${at}/facility-codes`)).toMatchObject([
      { code: '2214', name: 'Boat shed' },
    ]);
    expect((await house.administrator.do('GET', `${at}/cases`))[0].formatId).toBe('37-16-19');
  });

  it('a layout of its own becomes a new format, its reason saying how far it is settled', async () => {
    const layout = '37 | 1 even 2-19 | 2-17 facility | 18-36 number | 37 odd 19-36';
    const made = await make({ revision: 3, format: { id: 'boat-37', name: 'Boat shed’s cards', layout } });
    expect(made.body.evidence).toBe(3);
    const [version] = await house.administrator.do('GET', '/formats/boat-37/versions');
    expect(version.reason).toBe('presumed by 3 cards of the case Box from the boat shed');
  });

  it('for which range it was settled is kept with the case, and told in the reason of a new format', async () => {
    const settledFor = { from: '118400', to: '131599', of: '13200', proven: 4, settled: 9000, likely: 96, open: 4100 };
    const layout = '37 | 1 even 2-19 | 2-17 facility | 18-36 number | 37 odd 19-36';
    await make({ revision: 4, settledFor, format: { id: 'shed-37', name: 'Shed', layout } });
    const [listed] = await house.administrator.do('GET', `${at}/cases`);
    expect(listed).toMatchObject({ formatId: 'shed-37', settledFor: { ...settledFor, specimens: 3 } });
    const [version] = await house.administrator.do('GET', '/formats/shed-37/versions');
    expect(version.reason).toContain('of the 13200 cards 118400 to 131599 the bits of 4 are proven, of 9000 settled');
  });

  it('specimens are changed in one place, and those behind move; what is not there cannot be taken out', async () => {
    const of = (prints: string) => [...prints].map((printed, i) => ({ bits: `1${i % 2}`, printed }));
    const made = await house.administrator.do('POST', `${at}/cases`, { name: 'Spliced', specimens: of('abcdef') });
    const one = `${at}/cases/${made.id}`;
    const prints = async () =>
      (await house.administrator.do('GET', one)).specimens.map((s: { printed: string }) => s.printed).join('');
    let revision = 1;
    const splice = (from: number, remove: number, add: string) =>
      house.administrator.call('PATCH', one, { revision, splice: { at: from, remove, add: of(add) } });
    for (const [from, remove, add, is] of [
      [2, 1, 'X', 'abXdef'],
      [1, 3, '', 'aef'],
      [1, 0, 'bcd', 'abcdef'],
      [0, 2, 'YYYY', 'YYYYcdef'],
      [8, 0, 'gh', 'YYYYcdefgh'],
      [0, 10, '', ''],
      [0, 0, 'abc', 'abc'],
    ] as const) {
      expect((await splice(from, remove, add)).status).toBe(200);
      revision++;
      expect(await prints()).toBe(is);
    }
    const both = await house.administrator.call('PATCH', one, {
      revision,
      specimens: of('q'),
      splice: { at: 0, remove: 0, add: of('q') },
    });
    expect([both.status, both.body.error.where.field]).toEqual([422, 'splice']);
    const wrong = await splice(2, 2, 'z');
    expect([wrong.status, wrong.body.error.where.field]).toEqual([422, 'splice']);
    expect(await prints()).toBe('abc');
    expect((await house.administrator.do('GET', `${at}/cases`))[0]).toMatchObject({ name: 'Spliced', specimens: 3 });
    const [entry] = await house.administrator.do('GET', `${at}/trail`);
    expect(entry).toMatchObject({
      before: { specimens: 0 },
      after: { specimens: 3, only: [{ row: 1, printed: 'a' }, {}, {}] },
    });
    await house.administrator.do('DELETE', one);
  });

  it('10,000 specimens are kept, and a case is given up', async () => {
    const many = Array.from({ length: 10_000 }, (_, i) => ({
      bits: i.toString(2).padStart(64, '0'),
      printed: String(i),
    }));
    const big = await house.administrator.do('POST', `${at}/cases`, { name: 'Many', specimens: many });
    expect(big.specimens.length).toBe(10_000);
    await house.administrator.do('DELETE', `${at}/cases/${big.id}`);
    expect((await house.administrator.call('GET', `${at}/cases/${big.id}`)).status).toBe(404);
  });
});
