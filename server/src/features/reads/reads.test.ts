/** Reads at the API: several pasted lines are kept, all or none of them. */
import { afterAll, beforeAll, expect, it } from 'vitest';
import { type House, openHouse } from '../../testing/harness.ts';

let house: House;
beforeAll(async () => {
  house = await openHouse();
});
afterAll(() => house.close());

const lines = (reads: unknown) => house.administrator.call('POST', `/sites/${house.site}/reads/lines`, { reads });
const kept = async () =>
  ((await house.administrator.do('GET', `/sites/${house.site}/reads?limit=500`)) as { bits: string }[]).map(
    ({ bits }) => bits,
  );
const read = (number: number) => ({ bits: number.toString(2).padStart(26, '0'), notation: 'binary digits' });

it('are kept in their order, the last one the newest, with one entry in the trail', async () => {
  const reads = Array.from({ length: 300 }, (_, i) => read(1000 + i));
  expect((await lines(reads)).body).toEqual({ kept: 300 });
  expect((await kept()).slice(0, 300)).toEqual(reads.toReversed().map(({ bits }) => bits));
});

it.each([
  ['one of them no bits', [read(1), { bits: '012', notation: 'hex' }]],
  ['none at all', []],
  ['more than 2,000', Array.from({ length: 2001 }, (_, i) => read(i))],
])('%s: refused, and none is kept', async (_, reads) => {
  const before = await kept();
  expect([413, 422]).toContain((await lines(reads)).status);
  expect(await kept()).toEqual(before);
});

it('2,000 of 512 bits are kept at once', async () => {
  const long = Array.from({ length: 2000 }, (_, i) => ({ ...read(i), bits: i.toString(2).padStart(512, '1') }));
  expect((await lines(long)).body).toEqual({ kept: 2000 });
});
