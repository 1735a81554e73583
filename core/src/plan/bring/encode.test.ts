/** A plan on a simulated card: what stands there is what the plan says, under its keys and its rights alone. */
import { describe, expect, it } from 'vitest';
import { blankFiles, FilesCard } from '../../chip/index.ts';
import { hexOf } from '../../cipher/index.ts';
import { FilesHost } from '../../host/index.ts';
import { type Field, fieldsIn } from '../fields/index.ts';
import { planSchema } from '../schema/index.ts';
import { bringCard, ringOf, standInKeys } from './index.ts';

const PLAN = planSchema.parse({
  schema: 'rawbits/plan@1',
  card: { key: 'card', settings: { freeDirectory: false } },
  applications: [
    {
      id: '3042F5',
      keys: ['dive office', 'access'],
      settings: { changeKeys: 'never', freeDirectory: false, changeable: false },
      files: ['standard', 'backup'].map((kind, number) => ({
        kind,
        number,
        size: 48,
        rights: { read: 1, write: 'never', both: 0, change: 'never' },
        fields: [
          { name: 'mark', length: 2, content: { is: 'fixed', hex: '5350' } },
          { name: 'number', length: 4, content: { is: 'number', of: 'number' } },
          { name: 'holder', length: 20, content: { is: 'text', of: 'holder' } },
          {
            name: 'crc',
            length: 2,
            content: { is: 'check', over: ['mark', 'number', 'holder'], poly: '1021', init: 'FFFF' },
          },
        ],
      })),
    },
  ],
});
const draw = (count: number) => Uint8Array.from({ length: count }, (_, i) => i * 7);

describe('a plan on a card', () => {
  it.each([
    1, 2, 3,
  ] as const)('of generation %i: its fields, read under the key that may, and under no other', async (generation) => {
    const card = new FilesCard(blankFiles({ generation, masterKey: 'aes', uid: Uint8Array.of(4, 1, 2, 3, 4, 5, 6) }));
    const host = new FilesHost({ transmit: async (apdu) => card.transmit(apdu, draw) }, draw);
    const bytes = standInKeys(PLAN);
    const known = { values: { number: '118406', holder: 'Bård Nes' } };
    const plan = { ...PLAN, generation };
    await bringCard(host, { plan, ring: ringOf(plan, bytes), known, selected: card.memory.uid });
    card.powerOff();
    const key = (name: string) => ({ kind: 'aes128' as const, bytes: bytes(name) });
    await host.select(0x3042f5);
    await expect(host.files()).rejects.toThrow('AE');
    for (const { number, fields } of PLAN.applications[0]!.files as unknown as { number: number; fields: Field[] }[]) {
      await host.authenticate('aes', 1, key('access'));
      const read = await host.read(number, 0, 48, 'enciphered');
      expect(fieldsIn(fields, read).map(({ value, holds }) => [value, holds])).toEqual([
        ['5350', true],
        ['118406', true],
        ['Bård Nes', true],
        [hexOf(read.subarray(26, 28)), true],
      ]);
      await expect(host.write(number, 0, Uint8Array.of(1), 'enciphered')).rejects.toThrow('AE');
    }
    // Nobody changes keys or settings any more, not even key 0.
    await host.authenticate('aes', 0, key('dive office'));
    await expect(host.changeKey(1, key('access'), key('access'))).rejects.toThrow('9D');
    await host.authenticate('aes', 0, key('dive office'));
    await expect(host.changeKeySettings(0x0f)).rejects.toThrow('9D');
    await host.select();
    await expect(host.authenticate('aes', 0, { kind: 'aes128', bytes: new Uint8Array(16) })).rejects.toThrow('AE');
    await host.authenticate('aes', 0, key('card'));
    expect(await host.applications()).toEqual([0x3042f5]);
  });
});
