/** A reader that reads a sector of a sector card, by key A or B. */
import { z } from 'zod';
import { SectorRefused } from '../../chip/index.ts';
import { fail, RawBitsError } from '../../failure/index.ts';
import type { SectorsHost } from '../../host/index.ts';
import { placed } from '../fields/index.ts';
import { blocksAt, blocksIn, everySector, FACTORY, readingKeys, type SectorPlan } from '../sectors/index.ts';
import { cut, cutOf, cutShape } from './cut.ts';
import type { DoorReading, DoorStep } from './read.ts';

const BLOCK = 16;

export const sectorReaderSchema = z.strictObject({
  reads: z.literal('sector'),
  sector: z.number().int().min(0).max(39),
  by: z.enum(['A', 'B']),
  /** The plan’s name of the key; null for the factory’s. */
  key: z.string().trim().min(1).max(120).nullable(),
  ...cutShape,
});
export type SectorReader = z.output<typeof sectorReaderSchema>;

/** The blocks that some bytes of a sector’s data stand in. */
const blocksOf = ({ sector, from, length }: Pick<SectorReader, 'sector' | 'from' | 'length'>): number[] =>
  blocksAt(sector, from, from + length);

/** The settings for one field. Throws `door-field` where the plan has none such, or no key reads it. */
export function readerForSector(
  plan: SectorPlan,
  { sector: number, field: called }: { sector: number; field: string },
  bits?: number,
): SectorReader {
  const sector = everySector(plan)[number];
  const place = sector && placed(sector.fields).find(({ field }) => field.name === called);
  if (!sector || !place)
    return fail('door-field', `The plan has no field "${called}" in sector ${number}.`, { field: 'field' });
  const own = cutOf(place, bits);
  // A where both keys read it, as every reader has it.
  const by =
    readingKeys(sector, blocksOf({ sector: number, ...own }))[0] ??
    fail('door-field', `No key reads "${called}" in sector ${number}.`, { field: 'field' });
  return { reads: 'sector', sector: number, by, key: by === 'A' ? sector.keyA : sector.keyB, ...own };
}

/** Reads by settings; what is no refusal of the card is thrown. */
export async function readSectorAtDoor(
  host: SectorsHost,
  settings: SectorReader,
  key: (name: string) => Uint8Array | undefined,
): Promise<DoorReading> {
  const steps: DoorStep[] = [];
  const take = async (step: string, expected: string, came: string, work: () => Promise<void>): Promise<boolean> => {
    try {
      await work();
      steps.push({ step, holds: true });
      return true;
    } catch (error) {
      if (!(error instanceof SectorRefused || error instanceof RawBitsError)) throw error;
      steps.push({ step, holds: false, expected, came });
      return false;
    }
  };
  const { sector, by, from, length } = settings;
  const bytes =
    settings.key === null
      ? FACTORY
      : (key(settings.key) ??
        fail('reader-key', `The reader has no key "${settings.key}".`, undefined, 'Set it up anew.'));
  const blocks = blocksOf(settings);
  const first = blocksIn(sector)[0]!;
  const entered = await take(`authenticate sector ${sector} by key ${by}`, 'its key', 'another key', () =>
    host.authenticate(blocks[0]!, by, bytes),
  );
  if (!entered) return { steps };
  const data = new Uint8Array(BLOCK * (blocks.at(-1)! - first + 1));
  const read = await take(
    `read ${blocks.length === 1 ? 'block' : 'blocks'} ${blocks.join(', ')}`,
    'its bytes',
    'a block that this key does not read',
    async () => {
      for (const block of blocks) data.set(await host.read(block), BLOCK * (block - first));
    },
  );
  return read ? { steps, bits: cut(data.subarray(from, from + length), settings) } : { steps };
}
