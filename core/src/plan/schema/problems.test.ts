/** What is wrong with a plan: limits of the chip (DOMAIN §4, CHIPS), and advice of common practice, no source. */
import { describe, expect, it } from 'vitest';
import { freeMemory } from '../../chip/index.ts';
import { standInCard } from '../bring/index.ts';
import { bytesOfPlan, type PlanInput, planSchema, problemsOfPlan } from './index.ts';

const rights = { read: 0, write: 0, both: 'never', change: 0 } as const;
const file = { kind: 'standard', number: 0, rights, size: 32 } as const;
const application = { id: '3042F5', keys: ['a'], files: [file] } as const;
const planOf = (more: object) =>
  planSchema.parse({
    schema: 'rawbits/plan@1',
    card: { key: 'c' },
    keys: ['a', 'c'].map((name) => ({ name, each: 'card' })),
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
      'one key for all cards, that can alter something on each',
      { keys: [{ name: 'a' }, { name: 'c', each: 'card' }] },
      ['one-key keys'],
    ],
    ['a UID drawn anew, and every key made from it', { randomUid: true }, ['uid-hidden randomUid']],
    ['carried in public with a UID that stays', { carried: 'in public' }, ['uid-shown randomUid']],
    [
      'a name that everybody can read',
      {
        applications: [
          {
            ...application,
            files: [
              {
                ...file,
                rights: { ...rights, read: 'free' },
                fields: [{ name: 'n', length: 9, content: { is: 'text', of: 'holder' } }],
              },
            ],
          },
        ],
      },
      ['personal applications.0.files.0.rights.read'],
    ],
    [
      'a name of ISO/IEC 7816-4 without an identifier, and two files of one',
      {
        applications: [
          {
            ...application,
            isoName: 'A0',
            files: [0, 1].map((number) => ({ ...file, number, isoId: '0001' })),
          },
        ],
      },
      ['iso-name applications.0.isoName', 'doubled applications.0.files.1.isoId'],
    ],
    [
      'an identifier of ISO/IEC 7816-4 of some files, and not of others',
      {
        applications: [
          {
            ...application,
            files: [0, 1].map((number) => ({ ...file, number, ...(number === 0 && { isoId: '0001' }) })),
          },
        ],
      },
      ['iso-some applications.0.files.1.isoId'],
    ],
    [
      'an identifier of ISO/IEC 7816-4 of the application, and of no file',
      { applications: [{ ...application, isoId: 'E110' }] },
      ['iso-files applications.0.files.0.isoId'],
    ],
    [
      'keys of the factory',
      { card: {}, applications: [{ ...application, keys: [null] }] },
      ['factory-key applications.0.keys.0', 'factory-key card.key', 'unused keys.0', 'unused keys.1'],
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
    const { memory } = await standInCard(plan, (count) => new Uint8Array(count));
    expect(freeMemory(memory)).toBe(bytesOfPlan(plan).free);
  });
});
