/** The library, adoption, facility codes, and the reads kept. */
import { CATALOGUE } from '@rawbits/core/catalogue';
import { printLayoutLine } from '@rawbits/core/format';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type House, openHouse } from '../../testing/harness.ts';

describe('formats at the API', () => {
  let house: House;
  let at: string;
  beforeAll(async () => {
    house = await openHouse();
    at = `/sites/${house.site}`;
  });
  afterAll(() => house.close());
  const library = () => house.administrator.do('GET', '/formats');

  it('the library begins as the catalogue, and a second server does not double it', async () => {
    await house.another();
    const layouts = (await library()).map((f: { layout: string }) => f.layout).sort();
    expect(layouts).toEqual(CATALOGUE.map(printLayoutLine).sort());
  });

  it('a new format comes back exactly as its layout line said', async () => {
    const layout = '40r | 1-8 facility | 9-32 number | 33-40 check crc8(poly=1D,init=C7) 1-32';
    const made = await house.administrator.do('POST', '/formats', {
      id: '40r-crc',
      name: 'Forty',
      layout,
      source: 'box label',
    });
    expect(made).toMatchObject({
      layout,
      version: 1,
      createdBy: 'Admin',
      format: { id: '40r-crc', bits: 40, source: 'box label' },
    });
    const again = await house.administrator.call('POST', '/formats', { id: '40r-crc', name: 'Other', layout });
    expect([again.status, again.body.error.where]).toEqual([409, { field: 'id' }]);
  });

  it.each([
    ['600 | 1-600 number', 'layout-length'],
    ['8 | 1-9 number', 'past-end'],
    ['8 | 1-4 number | 4-8 facility', 'overlap'],
  ])('%s is refused as %s and leaves nothing', async (layout, code) => {
    const before = (await library()).length;
    expect(
      (await house.administrator.call('POST', '/formats', { id: 'bad', name: 'Bad', layout })).body.error,
    ).toMatchObject({ code, where: { field: 'layout' } });
    expect((await library()).length).toBe(before);
  });

  it('a site adopts a format once, and can give it up again while nothing uses it', async () => {
    const adopted = async () =>
      (await house.administrator.do('GET', `${at}/formats`))
        .filter((f: { adopted: boolean }) => f.adopted)
        .map((f: { format: { id: string } }) => f.format.id);
    await house.administrator.do('PUT', `${at}/formats/34-16-16`);
    await house.administrator.do('PUT', `${at}/formats/34-16-16`);
    expect(await adopted()).toEqual(['34-16-16']);
    expect((await house.administrator.call('PUT', `${at}/formats/none`)).status).toBe(404);
    await house.administrator.do('DELETE', `${at}/formats/34-16-16`);
    expect(await adopted()).toEqual([]);
    expect((await house.administrator.call('DELETE', `${at}/formats/34-16-16`)).status).toBe(404);
  });

  it('a facility code must fit its format and has one name', async () => {
    await house.administrator.do('PUT', `${at}/formats/26-8-16`);
    const name = (code: string, formatId: string | null = '26-8-16') =>
      house.administrator.call('POST', `${at}/facility-codes`, { formatId, code, name: 'Dock' });
    expect((await name('256')).body.error).toMatchObject({
      where: { field: 'code' },
      message: expect.stringContaining('above 255'),
    });
    expect((await name('058')).body.code).toBe('58');
    expect((await name('58')).body.error.code).toBe('code-taken');
    expect((await name('58', '64-0-64')).body.error.where.field).toBe('formatId');
  });

  it('reads kept are found by bits, hex, length and print of percent signs does not match everything', async () => {
    await house.administrator.do('POST', `${at}/reads`, {
      bits: '10100011100100011010010100',
      notation: 'binary digits',
    });
    const found = async (search: string) =>
      (await house.administrator.do('GET', `${at}/reads?search=${encodeURIComponent(search)}`)).length;
    expect([
      await found('28e4694'),
      await found('26'),
      await found('101000111'),
      await found('27'),
      await found('%'),
    ]).toEqual([1, 1, 1, 0, 0]);
  });
});
