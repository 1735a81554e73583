/** What a plan exposes its keys to: facts of the plans themselves, from memory. */
import { describe, expect, it } from 'vitest';
import { exposingPart, keyPlacesOf } from './exposure.ts';
import { anyPlanSchema, keyNamesOf } from './kinds.ts';

const FILES = {
  schema: 'rawbits/plan@1',
  kind: 'files',
  card: { key: 'Card' },
  keys: [
    { name: 'Card', each: 'card' },
    { name: 'Read', each: 'card' },
  ],
  applications: [
    {
      id: '5A0001',
      keys: ['Card', 'Read', 'Same', null],
      files: [
        {
          kind: 'standard',
          number: 1,
          size: 24,
          rights: { read: 1, write: 0, both: 0, change: 0 },
          fields: [{ name: 'grant', length: 24, content: { is: 'wrapped', key: 'Card', under: 'Partner' } }],
        },
      ],
    },
  ],
} as const;
const files = (more: object = {}) => anyPlanSchema.parse({ ...FILES, ...more });
const inWords = (plan: ReturnType<typeof files>) =>
  keyPlacesOf(plan).map(({ name, place, asItIs }) => `${name}: ${place}${asItIs ? ', as it is' : ''}`);

describe('where the keys of a plan stand', () => {
  it('on a file-system card: every slot, what is wrapped, and what opens that', () => {
    expect(inWords(files())).toEqual([
      'Card: the card master key',
      'Card: key 0 of 5A0001',
      'Read: key 1 of 5A0001',
      'Same: key 2 of 5A0001, as it is',
      'Card: wrapped under "Partner" in file 1 of 5A0001',
      'Partner: opens the grant in file 1 of 5A0001, as it is',
    ]);
    expect(keyPlacesOf(files()).filter(({ isCardMaster }) => isCardMaster).length).toBe(2);
  });

  it('on sector cards and tags: as they are, always', () => {
    const sectors = anyPlanSchema.parse({
      schema: 'rawbits/plan@1',
      kind: 'sectors',
      sectors: [{ number: 3, keyA: 'A', keyB: 'B' }],
    });
    expect(inWords(sectors)).toEqual(['A: key A of sector 3, as it is', 'B: key B of sector 3, as it is']);
    const tag = anyPlanSchema.parse({
      schema: 'rawbits/plan@1',
      kind: 'tag',
      sends: { is: 'string' },
      password: 'P',
    });
    expect(inWords(tag)).toEqual(['P: the password of the tag, as it is']);
  });

  it('names every key that the plan names', () => {
    const names = new Set(keyPlacesOf(files()).map(({ name }) => name));
    expect([...names].sort()).toEqual(keyNamesOf(files()).sort());
  });
});

describe('whether two plans expose their keys alike', () => {
  const part = (plan: unknown) => JSON.stringify(exposingPart(plan));
  const withFile = (more: object) =>
    files({
      applications: [{ ...FILES.applications[0], files: [{ ...FILES.applications[0].files[0], ...more }] }],
    });
  it('they do where names, plain contents and assertions differ', () => {
    const text = { name: 'text', at: 0, length: 4, content: { is: 'fixed', hex: '00' } };
    const grant = FILES.applications[0].files[0].fields[0];
    expect(part(files({ name: 'another' }))).toBe(part(files()));
    expect(part(withFile({ name: 'another', fields: [text, grant] }))).toBe(part(files()));
    expect(part(files({ assertions: [{ claim: 'only', keys: [], can: 'format the card' }] }))).toBe(part(files()));
  });
  it.each([
    ['a right', () => withFile({ rights: { read: 'free', write: 0, both: 0, change: 0 } })],
    ['a grant', () => withFile({ fields: [] })],
    [
      'for whom it is wrapped',
      () =>
        withFile({ fields: [{ name: 'grant', length: 24, content: { is: 'wrapped', key: 'Card', under: 'Same' } }] }),
    ],
    ['the form of a key', () => files({ keys: [{ name: 'Card', each: 'card' }] })],
    [
      'which key of the store is meant',
      () => files({ keys: [...FILES.keys, { name: 'Same', from: { set: 'Other', key: 'Same' } }] }),
    ],
    ['a setting', () => files({ card: { key: 'Card', settings: { freeCreate: true } } })],
    ['formatting', () => files({ noFormat: true })],
  ])('they do not where %s differs', (_, plan) => {
    expect(part(plan())).not.toBe(part(files()));
  });
});
