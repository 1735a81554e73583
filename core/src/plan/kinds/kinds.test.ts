/** What is asked of plans of any kind alike; and what a change of one means for the cards and tags that are about. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  type AnyPlan,
  anyPlanSchema,
  changeOfPlan,
  filledBy,
  keyNamesOf,
  keyOriginOf,
  planJsonSchema,
  problemsOf,
  reachesOfAny,
  takesBits,
} from './index.ts';

const draw = (count: number) => Uint8Array.from({ length: count }, (_, i) => (7 * i) & 0xff);
const planOf = (more: object): AnyPlan => anyPlanSchema.parse({ schema: 'rawbits/plan@1', ...more });
const BITS = { name: 'string', length: 8, content: { is: 'bits' } } as const;
const band = (more: object = {}) =>
  planOf({
    kind: 'sectors',
    sectors: [
      { number: 1, keyA: 'door', keyB: 'office', access: { data: [4, 4, 4], trailer: 3 }, fields: [BITS], ...more },
    ],
  });
const tag = (more: object = {}) => planOf({ kind: 'tag', sends: { is: 'string' }, ...more });
const card = planOf({ kind: 'files', card: { key: 'master' }, applications: [{ id: '5A0001', keys: ['door'] }] });

const stepsOf = async (was: AnyPlan, next: AnyPlan) => {
  const { steps, keys, refused } = await changeOfPlan(was, next, draw);
  const told = steps.map(({ do: what, application, block }) =>
    [what, application, block].filter((one) => one != null).join(' '),
  );
  return refused ?? [told, keys];
};

describe('a change of a plan', () => {
  it('that changes nothing takes nothing, whatever it is for', async () => {
    for (const plan of [card, band(), tag(), tag({ password: 'Tags' }), tag({ lock: 'contents' })])
      expect((await stepsOf(plan, plan))[0]).toEqual([]);
  });

  it('of a sector card: other bytes, and another condition, by key B', async () => {
    const next = band({
      fields: [{ ...BITS, content: { is: 'fixed', hex: 'C0FFEE' } }],
      access: { data: [6, 4, 4], trailer: 3 },
    });
    expect(await stepsOf(band(), next)).toEqual([
      ['write block sector 1 4', 'set the settings sector 1'],
      ['door', 'office'],
    ]);
  });

  it('of a sector card: another key takes the one before', async () => {
    expect(await stepsOf(band(), band({ keyB: 'new office' }))).toEqual([
      ['set the settings sector 1'],
      ['door', 'new office', 'office'],
    ]);
  });

  it('of a sector card whose bits and keys are frozen: refused, and why', async () => {
    const frozen = band({ access: { data: [4, 4, 4], trailer: 7 } });
    expect(await stepsOf(frozen, band())).toContain('can not be changed by the keys at hand');
  });

  it('of a tag: a password is put on, taken off, and what is locked is refused', async () => {
    expect(await stepsOf(tag(), tag({ password: 'Tags' }))).toEqual([
      ['change key the tag', 'set the configuration the tag'],
      ['Tags'],
    ]);
    expect(await stepsOf(tag({ password: 'Tags' }), tag())).toEqual([
      ['set the configuration the tag', 'change key the tag'],
      ['Tags'],
    ]);
    expect(await stepsOf(tag({ lock: 'contents' }), tag({ lock: 'everything' }))).toEqual([
      ['lock block the tag 7', 'lock block the tag 0'],
      [],
    ]);
    const sends = { is: 'identification' };
    expect(await stepsOf(tag({ lock: 'everything' }), tag({ sends }))).toContain('it is locked');
  });

  it('to another kind of chip is none', async () => {
    expect(await stepsOf(card, tag())).toBe('The cards that are about are file-system cards.');
  });
});

it.each([
  [card, ['master', 'door'], 0, false],
  [band(), ['door', 'office'], 1, true],
  [tag({ password: 'Tags' }), ['Tags'], 0, true],
  [tag({ sends: { is: 'identification' } }), [], 1, false],
] as const)('its keys, its fields and whether it takes the bits: %#', (plan, keys, filled, bits) => {
  expect([keyNamesOf(plan), filledBy(plan).length, takesBits(plan)]).toEqual([keys, filled, bits]);
});

it('which key of the store is meant is said by the plan, or by its name', () => {
  const from = { set: 'Fobs', key: 'Password 2' };
  expect(keyOriginOf(tag({ password: 'Tags', keys: [{ name: 'Tags', from }] }), 'Tags')).toEqual(from);
  expect(keyOriginOf(tag({ password: 'Tags' }), 'Tags')).toBeUndefined();
  expect(keyOriginOf(band(), 'door')).toBeUndefined();
});

it('the published schema has all three kinds', () => {
  const { oneOf, anyOf } = planJsonSchema() as { oneOf?: unknown[]; anyOf?: unknown[] };
  expect((oneOf ?? anyOf)?.length).toBe(3);
});

it('whatever is read as a plan can be asked everything, and what reach tells is sayable', () => {
  const sends = fc.constantFrom({ is: 'string' }, { is: 'identification' }, { is: 'identification', rate: 32 });
  const any = fc.record({
    sends,
    password: fc.constantFrom(null, 'a'),
    lock: fc.constantFrom('nothing', 'contents', 'everything'),
  });
  fc.assert(
    fc.property(any, (more) => {
      const plan = tag(more);
      expect(problemsOf(plan).every(({ weight }) => weight === 'advice')).toBe(true);
      const { keys, reach, sayable } = reachesOfAny(plan);
      for (const { can } of reach(new Set(keys))) expect(sayable).toContain(can);
    }),
  );
});
