/** The chip plans of the demo: the station’s new staff card, which opens doors and keeps the dive log, the loans of the gear store and the canteen’s balance; and the fobs of the workboats. */
import { type ChipPlan, chipPlanSchema } from '@rawbits/api';

const rights = (read: unknown, write: unknown, both: unknown, change: unknown) => ({ read, write, both, change });
const each = (name: string) => ({ name, each: 'card', system: '534B59' });

export const STAFF_CARD: ChipPlan = chipPlanSchema.parse({
  schema: 'rawbits/plan@1',
  kind: 'files',
  name: 'Staff card',
  carried: 'inside',
  card: { key: 'Card master', settings: { freeDirectory: false } },
  keys: [
    'Card master',
    'Access master',
    'Door number',
    'Dive office',
    'Dive log, write',
    'Gear store',
    'Canteen',
    'Harbour office',
  ].map(each),
  applications: [
    {
      id: '5A1001',
      name: 'Access',
      keys: ['Access master', 'Door number'],
      settings: { freeDirectory: false },
      files: [
        {
          kind: 'standard',
          number: 1,
          name: 'credential',
          size: 32,
          rights: rights(1, 'never', 'never', 0),
          fields: [
            { name: 'station', length: 2, content: { is: 'fixed', hex: '5350' } },
            { name: 'string', length: 4, content: { is: 'bits' } },
            { name: 'number', length: 4, content: { is: 'number', of: 'number' } },
            {
              name: 'crc',
              length: 2,
              content: { is: 'check', over: ['station', 'string', 'number'], poly: '1021', init: 'FFFF' },
            },
          ],
        },
        {
          kind: 'standard',
          number: 2,
          name: 'hand-back',
          mode: 'plain',
          size: 24,
          rights: rights('free', 'never', 'never', 0),
          fields: [
            {
              name: 'Harbour office',
              length: 24,
              content: { is: 'wrapped', key: 'Card master', under: 'Harbour office' },
            },
          ],
        },
      ],
    },
    {
      id: '5A1002',
      name: 'Dive log',
      keys: ['Dive office', 'Dive log, write', 'Door number'],
      settings: { freeDirectory: false, changeKeys: 0 },
      files: [
        {
          kind: 'cyclic',
          number: 0,
          name: 'dives',
          size: 32,
          records: 24,
          rights: rights(2, 1, 0, 0),
        },
      ],
    },
    {
      id: '5A1003',
      name: 'Gear store',
      keys: ['Gear store'],
      settings: { changeKeys: 'itself' },
      files: [
        {
          kind: 'standard',
          number: 0,
          name: 'loans',
          size: 64,
          rights: rights(0, 0, 'never', 0),
          fields: [
            { name: 'loans so far', length: 4, content: { is: 'counter', from: 0 } },
            { name: 'issued by', length: 28, content: { is: 'text', of: 'site' } },
          ],
        },
      ],
    },
    {
      id: 'CA0001',
      name: 'Canteen',
      keyKind: 'tdes2',
      keys: ['Canteen'],
      settings: { changeKeys: 'itself' },
      files: [
        {
          kind: 'value',
          number: 0,
          name: 'balance',
          upper: 100_000,
          rights: rights(0, 'never', 0, 0),
          limitedCredit: true,
        },
      ],
    },
  ],
  assertions: [
    { claim: 'only', keys: ['Dive office', 'Dive log, write'], can: 'alter file 0 of 5A1002' },
    { claim: 'only', keys: ['Card master', 'Harbour office'], can: 'format the card' },
    { claim: 'never', keys: ['Door number'], can: 'alter file 1 of 5A1001' },
    {
      claim: 'only',
      keys: ['Door number', 'Access master'],
      can: 'make a card that reads like file 1 of 5A1001',
    },
    { claim: 'never', keys: ['Canteen'], can: 'delete 5A1001' },
  ],
});

/** Fobs on the keys of the workboats: what they send is locked, since nobody has to change it. */
export const WORKBOAT_FOB: ChipPlan = chipPlanSchema.parse({
  schema: 'rawbits/plan@1',
  kind: 'tag',
  name: 'Workboat fob',
  sends: { is: 'string' },
  lock: 'contents',
  assertions: [{ claim: 'only', keys: [], can: 'write block 1' }],
});
