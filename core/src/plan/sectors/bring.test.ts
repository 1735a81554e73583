/**
 * Sector cards brought to a plan, and torn away before and after every frame: they end as if they never had been. Torn while a
 * trailer is written a sector may be lost, and this is told.
 */
import { describe, expect, it } from 'vitest';
import { isTried } from '../../../testing/runs.ts';
import {
  blankSectors,
  copied,
  keptText,
  SectorsCard,
  type SectorsMemory,
  sectorFrame,
  torn,
} from '../../chip/index.ts';
import { bytesOf, hexOf } from '../../cipher/index.ts';
import { SectorsHost } from '../../host/index.ts';
import {
  bringSectors,
  compareSectors,
  directoryBytes,
  freeSectors,
  problemsOfSectors,
  type SectorRing,
  sectorPlanSchema,
  standInSectorKey,
} from './index.ts';

const UID = bytesOf('B7910E5C', 'uid');
const WRISTBAND = {
  schema: 'rawbits/plan@1',
  kind: 'sectors',
  directory: true,
  publisher: 1,
  sectors: [
    {
      number: 1,
      keyA: 'reader',
      keyB: 'office',
      application: '4801',
      access: { data: [4, 4, 2], trailer: 3 },
      fields: [
        { name: 'number', length: 4, content: { is: 'number', of: 'number' } },
        { name: 'holder', length: 30, content: { is: 'text', of: 'holder' } },
      ],
    },
    { number: 5, keyA: 'reader', keyB: 'office', access: { data: [3, 3, 3], trailer: 3 } },
  ],
} as const;
const PLAN = sectorPlanSchema.parse(WRISTBAND);
const known = { values: { number: '640', holder: 'Hedda Lyng' } };
const ring: SectorRing = (name) => ({ now: standInSectorKey(name), before: [] });
const rolled: SectorRing = (name) => ({ now: standInSectorKey(`${name} anew`), before: [standInSectorKey(name)] });

type Tear = 'before' | 'during' | 'after';
class Torn extends Error {}
let drawn = 5;
const draw = (count: number) => Uint8Array.from({ length: count }, () => (drawn = (drawn * 75 + 74) % 65_537) & 0xff);

function at(memory: SectorsMemory, place = Number.POSITIVE_INFINITY, tear: Tear = 'before') {
  const card = new SectorsCard(memory);
  const pad = { memory, frames: 0 };
  const transmitRaw = async (frame: Uint8Array) => {
    const isHere = pad.frames++ === place;
    if (isHere && tear === 'before') throw new Torn();
    const before = copied(pad.memory);
    const answer = sectorFrame(card, frame);
    if (isHere && tear === 'during') pad.memory = torn(before, memory, draw);
    if (isHere) throw new Torn();
    return answer;
  };
  return { pad, host: new SectorsHost({ transmitRaw }, UID) };
}

async function through(
  memory: SectorsMemory,
  work: (host: SectorsHost) => Promise<unknown>,
  place?: number,
  tear?: Tear,
): Promise<{ memory: SectorsMemory; frames: number }> {
  const first = at(memory, place, tear);
  try {
    await work(first.host);
    return { memory: first.pad.memory, frames: first.pad.frames };
  } catch (error) {
    if (!(error instanceof Torn)) throw error;
  }
  const second = at(copied(first.pad.memory));
  await work(second.host);
  return { memory: second.pad.memory, frames: first.pad.frames };
}

const encode = (host: SectorsHost) => bringSectors(host, { plan: PLAN, ring, known });
const encoded = async () => (await through(blankSectors('1K', UID), encode)).memory;

describe.each([
  ['a blank gets a plan', async () => blankSectors('1K', UID), encode],
  ['its keys roll over', encoded, (host: SectorsHost) => bringSectors(host, { plan: PLAN, ring: rolled, known })],
  ['it is taken back', encoded, (host: SectorsHost) => freeSectors(host, { plan: PLAN, ring })],
] as const)('torn at every frame: %s', (_, from, work) => {
  it.each([
    ['before', 0],
    ['after', 1],
  ] as const)('%s it', async (tear, first) => {
    const start = await from();
    const whole = await through(copied(start), work);
    for (let place = 0; place < whole.frames; place++) {
      if (!isTried(place, 4, 2 * first)) continue;
      const { memory } = await through(copied(start), work, place, tear);
      expect(keptText(memory), `torn at frame ${place}`).toBe(keptText(whole.memory));
    }
    expect(whole.frames).toBeGreaterThan(10);
  });
});

describe('a sector card', () => {
  it('torn while it writes is finished, or the sector that is lost is named', async () => {
    const wanted = keptText(await encoded());
    const ends = new Set<string>();
    const { frames } = await through(blankSectors('1K', UID), encode);
    for (let round = 0; round < 3; round++)
      for (let place = 0; place < frames; place++)
        if (isTried(place, 3, round))
          ends.add(
            await through(blankSectors('1K', UID), encode, place, 'during').then(
              ({ memory }) => (keptText(memory) === wanted ? 'finished' : 'other'),
              (error: Error) => error.message.replace(/\d+/, 'n'),
            ),
          );
    ends.delete('finished');
    expect([...ends]).toEqual([
      'No key at hand opens sector n: it is somebody else’s, or was lost when the card was torn away.',
    ]);
  });

  it('has the directory with its checksum, and everybody’s key to it', async () => {
    const { blocks } = await encoded();
    expect(hexOf(directoryBytes(PLAN)).slice(2)).toBe(`010148${'0'.repeat(56)}`);
    expect(hexOf(blocks[3]!).slice(0, 12)).toBe('A0A1A2A3A4A5');
    expect(hexOf(blocks[4]!)).toBe(`00000280${hexOf(new TextEncoder().encode('Hedda Lyng'))}${'0'.repeat(4)}`);
  });

  it('as it was encoded nothing differs; one byte that does is told, and which block', async () => {
    const memory = await encoded();
    const compare = () => compareSectors(at(memory).host, { plan: PLAN, ring, known });
    expect(await compare()).toEqual([]);
    memory.blocks[5]![3]! ^= 1;
    expect(await compare()).toEqual([{ do: 'write block', application: 'sector 1', block: 5 }]);
  });

  it('taken back it is as it was delivered', async () => {
    const { memory } = await through(await encoded(), (host) => freeSectors(host, { plan: PLAN, ring }));
    const blank = blankSectors('1K', UID);
    // The directory's blocks are nobody's any more, and are left.
    expect(memory.blocks.filter((_, block) => block !== 1 && block !== 2)).toEqual(
      blank.blocks.filter((_, block) => block !== 1 && block !== 2),
    );
  });

  it('of somebody else is told, and stays as it is', async () => {
    const memory = await encoded();
    const before = keptText(memory);
    const other: SectorRing = (name) => ({ now: standInSectorKey(`not ${name}`), before: [] });
    await expect(bringSectors(at(memory).host, { plan: PLAN, ring: other, known })).rejects.toThrow(
      'No key at hand opens sector 1',
    );
    expect(keptText(memory)).toBe(before);
  });

  it('fields past its blocks, or where the maker’s are, are refused', () => {
    const codes = (sector: object) =>
      problemsOfSectors(sectorPlanSchema.parse({ ...WRISTBAND, sectors: [{ ...WRISTBAND.sectors[0], ...sector }] }))
        .filter(({ weight }) => weight === 'error')
        .map(({ code }) => code);
    const field = (at: number, length: number) => ({
      fields: [{ name: 'x', at, length, content: { is: 'fixed', hex: '' } }],
    });
    expect(codes(field(40, 9))).toEqual(['over']);
    expect(codes({ number: 0, application: null, ...field(16, 4) })).toEqual(['makers-block']);
  });
});
