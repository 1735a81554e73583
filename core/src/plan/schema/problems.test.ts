/** What is wrong with a plan: limits of the chip (DOMAIN §4, CHIPS), and advice of common practice, no source. */
import { describe, expect, it } from 'vitest';
import { blankFiles, FilesCard, freeMemory } from '../../chip/index.ts';
import { FilesHost } from '../../host/index.ts';
import { encodePlan, standInKeys } from '../encode/index.ts';
import { bytesOfPlan, type PlanInput, planSchema, problemsOfPlan } from './index.ts';

const rights = { read: 0, write: 0, both: 'never', change: 0 } as const;
const file = { kind: 'standard', number: 0, rights, size: 32 } as const;
const application = { id: '3042F5', keys: ['a'], files: [file] } as const;
const planOf = (more: object) =>
  planSchema.parse({
    schema: 'rawbits/plan@1',
    card: { key: 'c' },
    applications: [application],
    ...more,
  } as unknown as PlanInput);
const codes = (more: object) => problemsOfPlan(planOf(more)).map(({ code, where }) => `${code} ${where}`);

describe('a plan', () => {
  it.each([
    ['in order', {}, []],
    ['two applications of one identifier', { applications: [application, application] }, ['doubled applications.1.id']],
    [
      'two files of one number',
      { applications: [{ ...application, files: [file, file] }] },
      ['doubled applications.0.files.1.number'],
    ],
    [
      'a right of a key that is not there',
      { applications: [{ ...application, files: [{ ...file, rights: { ...rights, read: 1 } }] }] },
      ['no-such-key applications.0.files.0.rights.read'],
    ],
    [
      'changed by a key that is not there',
      { applications: [{ ...application, settings: { changeKeys: 2 } }] },
      ['no-such-key applications.0.settings.changeKeys'],
    ],
    [
      'more than the card holds',
      { capacity: 2048, applications: [{ ...application, files: [{ ...file, size: 2048 }] }] },
      ['memory capacity'],
    ],
    [
      'a value past its limits',
      { applications: [{ ...application, files: [{ kind: 'value', number: 0, rights, upper: 5, value: 6 }] }] },
      ['value applications.0.files.0.value'],
    ],
    [
      '29 applications on the first generation',
      { generation: 1, applications: Array.from({ length: 29 }, (_, i) => ({ id: String(100_000 + i), keys: ['a'] })) },
      ['applications applications'],
    ],
    [
      'keys of the factory',
      { card: {}, applications: [{ ...application, keys: [null] }] },
      ['factory-key applications.0.keys.0', 'factory-key card.key'],
    ],
    [
      'free to write and to change',
      {
        applications: [{ ...application, files: [{ ...file, rights: { ...rights, write: 'free', change: 'free' } }] }],
      },
      ['free-write applications.0.files.0.rights', 'free-change applications.0.files.0.rights.change'],
    ],
    [
      'read by a key in plain',
      { applications: [{ ...application, files: [{ ...file, mode: 'plain' }] }] },
      ['plain applications.0.files.0.mode'],
    ],
    [
      'files made by anybody',
      { applications: [{ ...application, settings: { freeCreate: true } }] },
      ['free-create applications.0.settings.freeCreate'],
    ],
  ] as const)('%s', (_, more, found) => {
    expect(codes(more)).toEqual(found);
  });

  it.each([
    { id: '12' },
    { id: '000000' },
    { keys: [] },
    { keys: Array.from({ length: 15 }, () => 'k') },
    { files: [{ ...file, size: 0 }] },
    { files: [{ ...file, number: 32 }] },
    { files: [{ kind: 'cyclic', number: 0, rights, size: 4, records: 1 }] },
    { extra: 1 },
    JSON.parse('{"__proto__":{"polluted":true}}'),
  ])('%j is none', (more) => {
    expect(
      planSchema.safeParse({ schema: 'rawbits/plan@1', applications: [{ ...application, ...more }] }).success,
    ).toBe(false);
  });

  it('takes what it says it takes: the simulated card has as much left', async () => {
    const plan = planOf({
      applications: [
        {
          ...application,
          keys: ['a', 'b', null],
          files: [
            file,
            { ...file, number: 1, kind: 'backup', size: 100 },
            { kind: 'value', number: 2, rights, upper: 9 },
            { kind: 'cyclic', number: 3, rights, size: 20, records: 7 },
          ],
        },
      ],
    });
    const card = new FilesCard(
      blankFiles({ generation: 2, masterKey: 'aes', uid: Uint8Array.of(4, 1, 2, 3, 4, 5, 6) }),
    );
    const zeros = (count: number) => new Uint8Array(count);
    await encodePlan(
      new FilesHost({ transmit: async (apdu) => card.transmit(apdu, zeros) }, zeros),
      plan,
      standInKeys(plan),
    );
    expect(freeMemory(card.memory)).toBe(bytesOfPlan(plan).free);
  });
});
