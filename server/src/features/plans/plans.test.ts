/** Plans: what is refused before it is kept, and that nothing half-written stays. */
import { planApi } from '@rawbits/api';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type House, openHouse } from '../../testing/harness.ts';
import { STAFF_CARD, staffCard } from '../../testing/station.ts';

describe('plans', () => {
  let house: House;
  let site: string;
  beforeAll(async () => {
    house = await openHouse();
    ({ site } = house);
  });
  afterAll(() => house.close());
  const post = (body: unknown) => house.administrator.call('POST', `/sites/${site}/plans`, body);
  const file = STAFF_CARD.applications[0].files[0];
  const withFile = (more: object) => ({
    ...STAFF_CARD,
    applications: [{ ...STAFF_CARD.applications[0], files: [{ ...file, ...more }] }],
  });
  const deep = (depth: number): string => `${'{"a":'.repeat(depth)}1${'}'.repeat(depth)}`;

  it.each([
    ['a file smaller than its fields', { plan: withFile({ size: 8 }) }, 422, 'ends at byte 24, and the file has 8'],
    [
      'more than the chip holds',
      { plan: { ...withFile({ size: 4000 }), capacity: 2048 } },
      422,
      'and the card has 2048',
    ],
    [
      'a right of a key that is not there',
      { plan: withFile({ rights: { ...file.rights, read: 9 } }) },
      422,
      'There is no key 9',
    ],
    [
      'an assertion about nothing',
      { plan: { ...STAFF_CARD, assertions: [{ claim: 'never', keys: [], can: 'open the door' }] } },
      400,
      'Nothing of the plan is called',
    ],
    ['a field that is none of a plan', { plan: { ...STAFF_CARD, keysInTheClear: ['00'] } }, 422, 'keysInTheClear'],
    ['a prototype', `{"plan":{"schema":"rawbits/plan@1","kind":"files","__proto__":{"name":"x"}}}`, 422, '__proto__'],
    ['nothing but depth', `{"plan":${deep(5000)}}`, 400, ''],
    ['ten megabytes', JSON.stringify({ plan: { ...STAFF_CARD, notes: 'x'.repeat(10_000_000) } }), 413, ''],
    ['a kind of card that there is not', { plan: { ...STAFF_CARD, kind: 'paper' } }, 422, 'kind'],
  ])('%s is refused and not kept', async (_, body, status, told) => {
    const answer = await post(body);
    expect([answer.status, answer.body.error.message]).toEqual([
      expect.toSatisfy((got: number) => got === status || (status === 400 && got >= 400 && got < 500)),
      expect.stringContaining(told),
    ]);
    expect(await house.administrator.ask(planApi.list, { site })).toEqual([]);
  });

  it('of one name there is one; a plan with errors is kept even so, and says how many', async () => {
    const { id } = await house.administrator.ask(planApi.add, { site }, { plan: staffCard() });
    const twice = await post({ plan: staffCard() });
    expect([twice.status, twice.body.error.code, twice.body.error.where.field]).toEqual([
      409,
      'name-taken',
      'plan.name',
    ]);
    const wrong = await house.administrator
      .ask(planApi.add, { site }, { plan: withFile({ size: 8 }) as never, evenSo: true })
      .catch((error) => error.message);
    expect(wrong).toContain('name-taken');
    const kept = await house.administrator.ask(
      planApi.add,
      { site },
      { plan: { ...withFile({ size: 8 }), name: 'Unfinished' } as never, evenSo: true },
    );
    expect(kept).toMatchObject({ errors: 1, current: 1 });
    await house.administrator.ask(planApi.remove, { site, id: kept.id });
    expect((await house.administrator.ask(planApi.list, { site })).map((plan) => plan.id)).toEqual([id]);
  });

  it('of two that save a version at once, one is told', async () => {
    const [{ id }] = (await house.administrator.ask(planApi.list, { site })) as unknown as [{ id: string }];
    const save = (notes: string) =>
      house.administrator.call('POST', `/sites/${site}/plans/${id}/versions`, { plan: staffCard(), basedOn: 1, notes });
    const answers = await Promise.all(['a', 'b', 'c'].map(save));
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 409, 409]);
    const one = await house.administrator.ask(planApi.one, { site, id });
    expect(one.versions.map(({ version }) => version)).toEqual([2, 1]);
  });
});
