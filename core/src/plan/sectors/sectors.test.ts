/**
 * Plans of sector cards against the simulated card, exhaustively: every trailer condition with every data condition, with
 * every choice of its keys (conditions from the chip's data sheet §8.7).
 */
import { describe, expect, it } from 'vitest';
import { isTried, met } from '../../../testing/runs.ts';
import { blankSectors, copied, SectorRefused, SectorsCard, type SectorsMemory, sectorFrame } from '../../chip/index.ts';
import { SectorsHost, trailerBytes } from '../../host/index.ts';
import { readSectorAtDoor } from '../door/index.ts';
import {
  blocksIn,
  conditionFor,
  encodeSectors,
  FACTORY,
  keyNamesOfSectors,
  problemsOfSectors,
  reachOfSectors,
  type SectorPlan,
  SectorPlayer,
  type SectorStep,
  sectorPlanSchema,
  sectorsOf,
  standInBlankSectors,
  standInSectorKey,
} from './index.ts';

const UID = Uint8Array.of(0xa1, 0xb2, 0xc3, 0xd4);
const hostOf = (card: SectorsCard) => new SectorsHost({ transmitRaw: async (frame) => sectorFrame(card, frame) }, UID);
const planOf = (more: object): SectorPlan =>
  sectorPlanSchema.parse({ schema: 'rawbits/plan@1', kind: 'sectors', ...more } as never);

/** A card with the plan on it; every data block of the planned sectors holds a value, so that it can be counted with. */
async function cardOf(plan: SectorPlan): Promise<SectorsMemory> {
  const card = new SectorsCard(blankSectors(plan.size, UID));
  const host = hostOf(card);
  for (const { number } of plan.sectors)
    for (const block of blocksIn(number).slice(0, -1)) {
      await host.authenticate(block, 'A', FACTORY);
      if (block !== 0) await host.writeValue(block, 5);
    }
  await encodeSectors(host, plan, standInSectorKey);
  card.powerOff();
  return card.memory;
}

async function goes(memory: SectorsMemory, plan: SectorPlan, steps: readonly SectorStep[]): Promise<boolean> {
  try {
    const blank = () => hostOf(new SectorsCard(standInBlankSectors(plan).memory));
    await new SectorPlayer(hostOf(new SectorsCard(copied(memory))), plan, standInSectorKey, blank).take(steps);
    return true;
  } catch (error) {
    if (error instanceof SectorRefused || (error as Error).message === 'the card did not show key B') return false;
    throw error;
  }
}

const EIGHT = [0, 1, 2, 3, 4, 5, 6, 7];
const SETS = [[], ['a'], ['b'], ['a', 'b']];

describe('reach on a sector card', () => {
  it.each(
    EIGHT,
  )('trailer condition %i, with every data condition and every choice of keys: what it tells goes, and nothing else', async (trailer) => {
    for (const data of EIGHT) {
      if (!isTried(data, 2, trailer)) continue;
      const plan = planOf({
        sectors: [{ number: 2, keyA: 'a', keyB: 'b', access: { data: [data, data, data], trailer } }],
      });
      const memory = await cardOf(plan);
      for (const keys of SETS) {
        const abilities = reachOfSectors(plan, new Set(keys)).filter(({ can }) =>
          /sector 2\b|block (8|9|10)$/.test(can),
        );
        for (const { can, by } of abilities)
          expect([data, keys, can, await goes(memory, plan, by)]).toEqual([data, keys, can, true]);
        // Each act by itself after each authentication that these keys allow: the card does it only where reach has it.
        const told = new Set(abilities.map(({ can }) => can));
        for (const key of ['A', 'B'] as const) {
          if (!keys.includes(key.toLowerCase())) continue;
          const first: SectorStep = { do: 'authenticate', sector: 2, key, with: { plan: key.toLowerCase() } };
          for (const { steps, cans } of everyAct())
            if (await goes(memory, plan, [first, ...steps]))
              for (const can of cans)
                expect([data, keys, key, can, told.has(can)]).toEqual([data, keys, key, can, true]);
        }
      }
    }
  });

  it('what key A shows of key B opens what B opens elsewhere', async () => {
    const plan = planOf({
      sectors: [
        { number: 1, keyA: 'gear store', keyB: 'master', access: { data: [0, 0, 0], trailer: 1 } },
        { number: 2, keyA: 'door', keyB: 'master', access: { data: [4, 4, 4], trailer: 3 } },
      ],
    });
    const way = reachOfSectors(plan, new Set(['gear store'])).find(({ can }) => can === 'write block 8');
    expect(way?.by.map((step) => step.do)).toEqual(['authenticate', 'read key B', 'authenticate', 'write']);
    expect(await goes(await cardOf(plan), plan, way!.by)).toBe(true);
    expect(reachOfSectors(plan, new Set(['door'])).map(({ can }) => can)).not.toContain('write block 8');
  });

  it('a sector as it is delivered is everybody’s', () => {
    const can = reachOfSectors(planOf({}), new Set()).map((ability) => ability.can);
    expect(can).toContain('lock sector 15 for good');
    expect(can.filter((what) => what.startsWith('write block'))).toHaveLength(47);
    expect(can).not.toContain('write block 0');
  });
});

/** What can be done to sector 2, with what it is called. A trailer is taken in part, and nobody is told: `walk.test.ts` looks. */
const everyAct = (): { steps: SectorStep[]; cans: string[] }[] => [
  ...[8, 9, 10].flatMap((block) => [
    ...(['read', 'write'] as const).map((what) => ({
      steps: [{ do: what, block } as SectorStep],
      cans: [`${what} block ${block}`],
    })),
    ...[8, 9, 10].flatMap((from) =>
      (['increment', 'decrement', 'restore'] as const).map((how) => ({
        steps: [
          { do: how, block: from },
          { do: 'transfer', block, from },
        ] as SectorStep[],
        cans: calledTransfer(how, from, block),
      })),
    ),
  ]),
  { steps: [{ do: 'read key B', sector: 2 }], cans: ['read key B of sector 2'] },
];

function calledTransfer(how: string, from: number, to: number): string[] {
  if (from !== to) return [`copy a value into block ${to}`, `increment block ${to}`];
  return how === 'restore' ? [] : [`${how} block ${to}`];
}

describe('make a card that reads like a sector', () => {
  const FIELDS = [{ name: 'string', length: 20, content: { is: 'fixed', hex: '5350' } }] as const;
  const CAN = 'make a card that reads like sector 2';
  const names = ['a', 'b'];
  const ring = (name: string) => standInSectorKey(name);
  /** Readers that a plan can be read by: key A or B, where a finished card answers. */
  const takes = async (memory: SectorsMemory, by: 'A' | 'B', key: string): Promise<boolean> => {
    const place = { sector: 2, by, key, from: 0, length: 20, bits: 160, align: 'left', order: 'big' } as const;
    const host = hostOf(new SectorsCard(copied(memory)));
    return (await readSectorAtDoor(host, { reads: 'sector', ...place }, ring)).bits !== undefined;
  };
  /** Blanks with whatever trailer can be made of the keys that somebody knows. */
  async function blanksBy(known: readonly string[]): Promise<SectorsMemory[]> {
    const keys = [FACTORY, ...known.map(ring)];
    const made: SectorsMemory[] = [];
    for (const keyA of keys)
      for (const keyB of keys)
        for (const trailer of EIGHT) {
          const card = new SectorsCard(blankSectors('1K', UID));
          const host = hostOf(card);
          await host.authenticate(11, 'A', FACTORY);
          await host.write(11, trailerBytes(keyA, [0, 0, 0, trailer], 0x69, keyB));
          card.powerOff();
          made.push(card.memory);
        }
    return made;
  }

  it('is told exactly where some blank or some change of the card deceives a reader', async () => {
    const blanks = new Map<string, SectorsMemory[]>();
    for (const keys of SETS) blanks.set(keys.join(), await blanksBy(keys));
    let told = 0;
    for (const trailer of EIGHT)
      for (const data of EIGHT) {
        if (!isTried(data, 4, trailer)) continue;
        const plan = planOf({
          sectors: [{ number: 2, keyA: 'a', keyB: 'b', fields: FIELDS, access: { data: [data, data, data], trailer } }],
        });
        const genuine = await cardOf(plan);
        const readers: ['A' | 'B', string][] = [];
        for (const [i, by] of (['A', 'B'] as const).entries())
          if (await takes(genuine, by, names[i]!)) readers.push([by, names[i]!]);
        for (const keys of SETS) {
          const can = reachOfSectors(plan, new Set(keys));
          const way = can.find((one) => one.can === CAN);
          let deceives = can.some((one) => /^(write|increment|decrement|copy a value into) block [89]$/.test(one.can));
          // What is shown of key B is known, too.
          const known = can.some((one) => one.can === 'read key B of sector 2') ? [...new Set([...keys, 'b'])] : keys;
          for (const blank of blanks.get(known.join()) ?? [])
            for (const [by, key] of readers) deceives ||= await takes(blank, by, key);
          expect([trailer, data, keys, way !== undefined]).toEqual([trailer, data, keys, deceives]);
          if (!way) continue;
          told++;
          expect([trailer, data, keys, await goes(genuine, plan, way.by)]).toEqual([trailer, data, keys, true]);
        }
      }
    expect(told).toBeGreaterThan(met(60));
  });

  it('by the key of the reader alone: a blank, the blocks of the field, the key; with none of its own: nothing', async () => {
    const access = { data: [4, 4, 4], trailer: 3 };
    const plan = planOf({ sectors: [{ number: 2, keyA: 'a', keyB: 'b', fields: FIELDS, access }] });
    const way = (keys: string[]) => reachOfSectors(plan, new Set(keys)).find(({ can }) => can === CAN)?.by;
    expect(way([])).toBeUndefined();
    expect(way(['a'])).toEqual([
      { do: 'take a blank' },
      { do: 'write', block: 8 },
      { do: 'write', block: 9 },
      { do: 'put a key in', sector: 2, slot: 'A', key: 'a' },
    ]);
    // Who may write needs no blank.
    expect(way(['b'])?.map((step) => step.do)).toEqual(['authenticate', 'write']);
    expect(reachOfSectors(planOf({}), new Set()).filter(({ can }) => can.startsWith('make'))).toEqual([]);
  });
});

describe('a plan of a sector card', () => {
  it('finds the condition by what it allows', () => {
    expect(conditionFor({ read: 'AB', write: 'B', increment: '', decrement: '' })).toBe(4);
    expect(conditionFor({ read: 'AB', write: 'B', increment: 'B', decrement: 'AB' })).toBe(6);
    expect(conditionFor({ read: 'A', write: 'B', increment: '', decrement: '' })).toBeUndefined();
  });

  it('says what is wrong or ill-advised', () => {
    const codes = (sectors: object[], size = '1K') =>
      problemsOfSectors(planOf({ sectors, size })).map(({ code, where }) => `${code} ${where}`);
    expect(codes([{ number: 16, keyA: 'a', keyB: 'b', access: { trailer: 3 } }])).toEqual([
      'no-sector sectors.0.number',
    ]);
    expect(codes([{ number: 16, keyA: 'a', keyB: 'b', access: { trailer: 3 } }], '4K')).toEqual([]);
    expect(codes([{ number: 1, keyB: 'b' }])).toEqual([
      'key-b-read sectors.0.access.trailer',
      'factory-key sectors.0.keyA',
    ]);
    expect(codes([{ number: 1, keyA: 'a', keyB: 'b', access: { trailer: 7 } }])).toEqual([
      'locks sectors.0.access.trailer',
    ]);
    expect(codes([{ number: 1, keyA: 'a', keyB: 'b', access: { trailer: 4 } }])).toEqual([
      'frozen sectors.0.access.trailer',
    ]);
    expect(codes([{ number: 1, keyA: 'a', keyB: 'b', application: '0801', access: { trailer: 3 } }])).toEqual([
      'directory sectors.0.application',
    ]);
    expect([sectorsOf({ size: '1K' }), sectorsOf({ size: '4K' }), blocksIn(33).length, blocksIn(39).at(-1)]).toEqual([
      16, 40, 16, 255,
    ]);
    expect(keyNamesOfSectors(planOf({ sectors: [{ number: 1, keyA: 'a', keyB: 'a' }] }))).toEqual(['a']);
  });
});
