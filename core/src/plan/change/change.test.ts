/** What a change means for cards that are about: told on one card, and what differs in words. */
import { expect, it } from 'vitest';
import { type PlanInput, planSchema } from '../schema/index.ts';
import { differencesOf, merged, partOf, planChange } from './index.ts';

const file = {
  kind: 'standard',
  number: 0,
  size: 32,
  rights: { read: 1, write: 0, both: 'never', change: 0 },
  fields: [{ name: 'n', length: 4, content: { is: 'number', of: 'number' } }],
} as const;
const application = { id: '3042F5', keys: ['master', 'door'], files: [file] };
const planOf = (more: object = {}) =>
  planSchema.parse({
    schema: 'rawbits/plan@1',
    card: { key: 'card' },
    applications: [application],
    ...more,
  } as unknown as PlanInput);
const draw = (count: number) => Uint8Array.from({ length: count }, (_, i) => i & 0xff);
const told = async (...args: Parameters<typeof planChange>) => {
  const { steps, keys, refused } = await planChange(...args);
  return { steps: steps.map((step) => `${step.do} ${step.file ?? step.slot ?? ''}`.trim()), keys, refused };
};

it('nothing, where nothing changed', async () => {
  expect(await told(planOf(), planOf(), draw)).toEqual({
    steps: [],
    keys: ['card', 'master', 'door'],
    refused: undefined,
  });
});

it('a key that rolled over takes one step on every card', async () => {
  expect(await told(planOf(), planOf(), draw, ['door'])).toMatchObject({ steps: ['change key 1'] });
});

it('a file more, and other rights of the one that is there', async () => {
  const next = planOf({
    applications: [
      {
        ...application,
        files: [
          { ...file, rights: { ...file.rights, write: 1 } },
          { ...file, number: 1 },
        ],
      },
    ],
  });
  expect(await told(planOf(), next, draw)).toMatchObject({
    steps: ['set the rights of file 0', 'create file 1', 'write file 1', 'set the rights of file 1'].filter(
      // Zeros are in it already.
      (step) => step !== 'write file 1',
    ),
  });
});

it('what was frozen cannot be brought along, and why', async () => {
  const frozen = planOf({ applications: [{ ...application, settings: { changeable: false, changeKeys: 'never' } }] });
  expect(await told(frozen, frozen, draw, ['door'])).toMatchObject({
    steps: [],
    refused: expect.stringContaining('Key 1 of 3042F5 can never be changed again'),
  });
});

it('differences are told by what things are called, not by where they stand', () => {
  const before = { applications: [{ id: 'A', keys: ['x'] }, { id: 'B' }] };
  const after = { applications: [{ id: 'B' }, { id: 'A', keys: ['x', null] }], carried: 'inside' };
  expect(differencesOf(before, after)).toEqual([
    { where: 'applications.A.keys.1', after: 'null' },
    { where: 'carried', after: '"inside"' },
  ]);
});

it('a part has the applications and keys of whom it is for, and nothing of the rest; what comes back is merged', () => {
  const whole = planOf({
    keys: ['card', 'master', 'door', 'till'].map((name) => ({ name, each: 'card', from: { set: 'Staff', key: name } })),
    applications: [application, { id: 'CA0001', keys: ['till'], files: [] }],
    assertions: [
      { claim: 'only', keys: ['till'], can: 'delete CA0001' },
      { claim: 'only', keys: ['card'], can: 'format the card' },
    ],
  });
  const part = partOf(whole, ['CA0001']);
  expect(JSON.stringify(part)).not.toMatch(/3042F5|"master"|"door"|Staff/);
  expect(part.keys.map(({ name }) => name)).toEqual(['till']);
  expect(part.assertions.map(({ can }) => can)).toEqual(['delete CA0001']);
  const filled = planSchema.parse({ ...part, applications: [{ ...part.applications[0], keys: ['till', 'refill'] }] });
  const next = merged(whole, { ...filled, keys: [...filled.keys, { name: 'refill', each: 'all', system: '' }] });
  expect(differencesOf(whole, next).map(({ where }) => where)).toEqual(['applications.CA0001.keys.1', 'keys.refill']);
  expect(() => merged(planOf(), part)).toThrow('has an application CA0001, and the plan has none');
});
