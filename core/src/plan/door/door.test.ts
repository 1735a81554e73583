/** Readers at doors against simulated cards: what is taken, and the step at which a reader that is set up wrongly stops. */
import { describe, expect, it } from 'vitest';
import { Bits } from '../../bits/index.ts';
import { blankFiles, FilesCard, type FilesMemory } from '../../chip/index.ts';
import { FilesHost } from '../../host/index.ts';
import { bringCard, type Ring } from '../bring/index.ts';
import { type AnyPlan, anyPlanSchema } from '../kinds/index.ts';
import { type Plan, type PlanInput, planSchema } from '../schema/index.ts';
import {
  type CredentialPlace,
  deliveredAt,
  doorKey,
  type FileReader,
  keysOfReader,
  placesOf,
  type ReaderKey,
  readAtDoor,
  readerAt,
  readerFor,
  readerSettingsSchema,
} from './index.ts';

const UID = Uint8Array.of(4, 0x11, 0x22, 0x33, 0x44, 0x55, 0x66);
const draw = (count: number) => Uint8Array.from({ length: count }, (_, i) => (i * 31 + 5) & 0xff);
const key = (fill: number, version = 1): ReaderKey => ({
  kind: 'aes128',
  bytes: new Uint8Array(16).fill(fill),
  version,
});
const KEYS: Record<string, ReaderKey> = { master: key(1), door: key(2, 4), tell: key(3), card: key(4) };

const planOf = (more: Partial<PlanInput> = {}): Plan =>
  planSchema.parse({
    schema: 'rawbits/plan@1',
    card: { key: 'card' },
    keys: [
      { name: 'door', each: 'card', system: '5350' },
      { name: 'card', each: 'card' },
    ],
    applications: [
      {
        id: '5A0001',
        keys: ['master', 'door', 'tell'],
        files: [
          {
            kind: 'standard',
            number: 1,
            size: 32,
            rights: { read: 1, write: 0, both: 'never', change: 0 },
            fields: [
              { name: 'string', length: 5, content: { is: 'bits' } },
              { name: 'low', length: 4, content: { is: 'number', of: 'number', order: 'little' } },
              { name: 'holder', length: 9, content: { is: 'text', of: 'holder' } },
            ],
          },
        ],
      },
    ],
    ...more,
  } as PlanInput);
const BITS = Bits.fromBinary('1000101001010011001110011100110011011');
const known = { values: { number: '118406', holder: 'Ea' }, bits: BITS };

/** A card with the plan on it under the house's keys. */
async function cardOf(plan: Plan): Promise<FilesMemory> {
  const memory = blankFiles({ generation: 2, masterKey: 'aes', uid: UID });
  const ring: Ring = (name, application) => {
    const { each, system } = plan.keys.find((one) => one.name === name) ?? { each: 'all', system: '' };
    return { now: doorKey(KEYS[name]!, { each, system }, UID, application), before: [] };
  };
  await bringCard(hostAt(memory), { plan, ring, known, selected: UID });
  return memory;
}
const hostAt = (memory: FilesMemory) => {
  const card = new FilesCard(memory);
  return new FilesHost({ transmit: async (apdu) => card.transmit(apdu, draw) }, draw);
};
const FIELD = { application: '5A0001', file: 1, field: 'string' };
const read = async (settings: FileReader, memory: FilesMemory, keys = KEYS, selected = UID) =>
  readAtDoor(hostAt(memory), settings, selected, (name) => keys[name]);

describe('a reader that is set up by a plan', () => {
  it('takes the bits as the format has them, under the key of this card', async () => {
    const plan = planOf();
    const { bits, steps } = await read(readerFor(plan, FIELD, { bits: 37 }), await cardOf(plan));
    expect(bits?.toBinary()).toBe(BITS.toBinary());
    expect(steps.map(({ step }) => step)).toEqual([
      'select application 5A0001',
      'authenticate by key 1',
      'read file 1',
    ]);
  });

  it('takes a number in either order, the last of its bits', async () => {
    const plan = planOf();
    const { bits } = await read(readerFor(plan, { ...FIELD, field: 'low' }, { bits: 24 }), await cardOf(plan));
    expect(bits?.toDecimal()).toBe('118406');
  });

  it('learns a UID that is drawn anew before it makes the key of the card', async () => {
    const plan = planOf({ randomUid: true });
    const settings = readerFor(plan, FIELD, { bits: 37 });
    expect(settings.tells).toMatchObject({ name: 'master', slot: 0, each: 'all' });
    const { bits } = await read(settings, await cardOf(plan), KEYS, Uint8Array.of(8, 9, 9, 9));
    expect(bits?.toBinary()).toBe(BITS.toBinary());
  });

  it.each([
    ['another version of its key', {}, { door: key(8, 5) }, 'authenticate by key 1', 'the key of version 4'],
    ['the right version of a wrong key', {}, { door: key(7, 4) }, 'authenticate by key 1', 'another key'],
    ['another application', { application: '5A0002' }, {}, 'select application 5A0002', 'no such application'],
    ['another file', { file: 7 }, {}, 'read file 7', 'no such file'],
    ['bytes past the end', { from: 30 }, {}, 'read file 1', 'a file that ends before'],
    ['another mode', { mode: 'plain' }, {}, 'read file 1', undefined],
    [
      'a number of a key that is not there',
      { key: { name: 'door', slot: 9, each: 'card', system: '5350' } },
      {},
      'authenticate by key 9',
      'no key of this number',
    ],
  ] as const)('with %s stops at its step, and says what came', async (_, wrong, keys, step, came) => {
    const plan = planOf();
    const settings = { ...readerFor(plan, FIELD, { bits: 37 }), ...wrong } as FileReader;
    const { bits, steps } = await read(settings, await cardOf(plan), { ...KEYS, ...keys });
    if (came === undefined) {
      // Under a mode that is not the file's the bytes are others, or the answer does not hold.
      expect(bits?.toBinary()).not.toBe(BITS.toBinary());
      return;
    }
    expect(bits).toBeUndefined();
    expect(steps.at(-1)).toMatchObject({ step, holds: false, came });
  });

  it('in the other order or from another byte takes other bits, and nothing tells it', async () => {
    const plan = planOf();
    const settings = readerFor(plan, { ...FIELD, field: 'low' }, { bits: 24 });
    const memory = await cardOf(plan);
    expect((await read({ ...settings, order: 'big' }, memory)).bits?.toDecimal()).not.toBe('118406');
    expect((await read({ ...settings, from: settings.from - 1 }, memory)).bits?.toDecimal()).not.toBe('118406');
  });

  it('fields that hold a credential are offered, and what nobody reads is refused', () => {
    expect(placesOf({ ...planOf(), kind: 'files' }).map(({ field }) => field)).toEqual(['string', 'low']);
    expect(() => readerFor(planOf(), { ...FIELD, field: 'nothing' })).toThrow('no field "nothing"');
    expect(() => readerFor(planOf(), FIELD, { bits: 41 })).toThrow('has 40 bits, and 41');
    expect(() => readerFor(planOf(), FIELD, { slot: 2 })).toThrow('Key 2 does not read');
    const keys = ['master', 'door', 'tell'].map((name) => ({ name, each: 'card' as const }));
    expect(() => readerFor(planOf({ randomUid: true, keys }), FIELD)).toThrow('no key by which they tell it');
  });
});

describe('readers of other chips', () => {
  const any = (more: object): AnyPlan => anyPlanSchema.parse({ schema: 'rawbits/plan@1', ...more });
  const string = { name: 'string', at: 14, length: 8, content: { is: 'bits' } } as const;
  const low = { name: 'low', length: 3, content: { is: 'number', of: 'number', order: 'little' } } as const;
  const band = (data: number, more: object = {}) =>
    any({
      kind: 'sectors',
      sectors: [
        {
          number: 2,
          keyA: 'a',
          keyB: 'b',
          access: { data: [data, data, data], trailer: 3 },
          fields: [string, low],
          ...more,
        },
      ],
    });
  const fob = any({ kind: 'tag', sends: { is: 'string' } });
  const id = (rate: number) =>
    any({ kind: 'tag', sends: { is: 'identification', rate, fields: [{ ...low, at: 1, length: 4 }] } });

  it.each<[string, AnyPlan, CredentialPlace, string[], string]>([
    ['over two blocks, by key A', band(4), { in: 'sector', sector: 2, field: 'string' }, ['a'], BITS.toBinary()],
    ['by key B, where A does not read', band(5), { in: 'sector', sector: 2, field: 'string' }, ['b'], BITS.toBinary()],
    [
      'by the factory’s key',
      band(0, { keyA: null }),
      { in: 'sector', sector: 2, field: 'string' },
      [],
      BITS.toBinary(),
    ],
    ['a string of a tag', fob, { in: 'tag', field: 'string' }, [], BITS.toBinary()],
    [
      'a field of an identification tag',
      id(64),
      { in: 'tag', field: 'low' },
      [],
      (118406).toString(2).padStart(37, '0'),
    ],
    ['the same at RF/32', id(32), { in: 'tag', field: 'low' }, [], (118406).toString(2).padStart(37, '0')],
  ])('%s', async (_, plan, place, keys, told) => {
    expect(placesOf(plan)).toContainEqual(place);
    const isField = place.field === 'low';
    const settings = readerAt(plan, place, isField ? 32 : place.in === 'tag' ? undefined : 37);
    expect(readerSettingsSchema.parse(JSON.parse(JSON.stringify(settings)))).toEqual(settings);
    expect(keysOfReader(settings)).toEqual(keys);
    const { bits, steps } = await deliveredAt(plan, settings, known, draw);
    expect(steps.every(({ holds }) => holds)).toBe(true);
    expect(bits?.toBinary().padStart(37, '0')).toBe(told);
  });

  it('a tag at another rate, of another kind, or empty is not heard, and the step says so', async () => {
    for (const [plan, settings] of [
      [id(32), readerAt(id(64), { in: 'tag', field: 'low' })],
      [fob, readerAt(id(64), { in: 'tag', field: 'low' })],
      [id(64), readerAt(fob, { in: 'tag', field: 'string' })],
    ] as const)
      expect(await deliveredAt(plan, settings, known, draw)).toMatchObject({ steps: [{ holds: false }] });
  });

  it('a sector that no key reads, a field that is not there and a place on another chip are refused', () => {
    expect(() => readerAt(band(7), { in: 'sector', sector: 2, field: 'string' })).toThrow('No key reads');
    expect(() => readerAt(band(4), { in: 'sector', sector: 3, field: 'string' })).toThrow(
      'no field "string" in sector 3',
    );
    expect(() => readerAt(fob, { in: 'sector', sector: 2, field: 'string' })).toThrow('for rewritable tags');
    expect(() => readerAt(id(64), { in: 'tag', field: 'nothing' })).toThrow('no field "nothing"');
  });
});
