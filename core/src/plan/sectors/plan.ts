/**
 * A plan of a sector card: keys A and B of each sector, and what each of its blocks allows. Access conditions are numbers from
 * 0 to 7, C1 the highest bit, as the chip has them; `conditionFor` finds the one that allows what is wanted.
 */
import { z } from 'zod';
import { blocksOf, type DataAccess, dataAccess, sectorOf, trailerAccess } from '../../chip/index.ts';
import { fieldSchema, problemsOfFields } from '../fields/index.ts';
import { assertionSchema, type PlanProblem } from '../schema/index.ts';

const name = z.string().trim().min(1).max(120);
/** The name of a key of the plan, or null where the factory's stays, which everybody knows. */
const slot = name.nullable().default(null);
const condition = z.number().int().min(0).max(7);

export const sectorSchema = z.strictObject({
  number: z.number().int().min(0).max(39),
  keyA: slot,
  keyB: slot,
  /** In the directory of the card: cluster and application, four hex digits; null where the sector is in none. */
  application: z
    .string()
    .toUpperCase()
    .regex(/^[0-9A-F]{4}$/, 'An application of the directory has four hex digits: its cluster, then its code.')
    .nullable()
    .default(null),
  /** What stands in its data blocks, one after the other; of sector 0 the first sixteen bytes are the maker’s. */
  fields: z.array(fieldSchema).max(64).default([]),
  access: z
    .strictObject({
      /** Of the three data blocks, or groups of five. */
      data: z.tuple([condition, condition, condition]).default([0, 0, 0]),
      trailer: condition.default(1),
    })
    .prefault({}),
});
export type PlanSector = z.output<typeof sectorSchema>;

export const sectorPlanSchema = z.strictObject({
  schema: z.literal('rawbits/plan@1'),
  name: name.default('plan'),
  kind: z.literal('sectors'),
  size: z.enum(['1K', '4K']).default('1K'),
  /** Whether blocks 1 and 2 are a directory of the applications in its sectors 1 to 15 (NXP AN10787). */
  directory: z.boolean().default(false),
  /** The sector of whoever gives the card out, in the directory; 0 for none. */
  publisher: z.number().int().min(0).max(15).default(0),
  /** Those that differ from how the card is delivered. */
  sectors: z.array(sectorSchema).max(40).default([]),
  assertions: z.array(assertionSchema).max(100).default([]),
});
export type SectorPlan = z.output<typeof sectorPlanSchema>;

/** As delivered: both keys the factory's, all free with either, the trailer written with key A. */
const AS_DELIVERED: Omit<PlanSector, 'number'> = {
  keyA: null,
  keyB: null,
  application: null,
  fields: [],
  access: { data: [0, 0, 0], trailer: 1 },
};

/** The sectors that a plan says something of; that of its directory among them. */
export const sectorsToBring = (plan: SectorPlan): PlanSector[] => {
  const planned = plan.sectors.toSorted((a, b) => a.number - b.number);
  return plan.directory && planned[0]?.number !== 0 ? [{ number: 0, ...AS_DELIVERED }, ...planned] : planned;
};

export const sectorsOf = ({ size }: Pick<SectorPlan, 'size'>): number => sectorOf(blocksOf(size) - 1).sector + 1;

/** Every sector of the card, planned or as delivered. */
export const everySector = (plan: SectorPlan): PlanSector[] =>
  Array.from(
    { length: sectorsOf(plan) },
    (_, number) => plan.sectors.find((sector) => sector.number === number) ?? { number, ...AS_DELIVERED },
  );

/** The blocks of a sector, the trailer last. */
export function blocksIn(number: number): number[] {
  const first = number < 32 ? 4 * number : 128 + 16 * (number - 32);
  return Array.from({ length: number < 32 ? 4 : 16 }, (_, i) => first + i);
}

/** The block of a sector's trailer. */
export const trailerOfSector = (number: number): number => blocksIn(number).at(-1)!;

/** The condition of a data block of a sector. */
export function conditionOf({ number, access }: PlanSector, block: number): number {
  const [first, ...rest] = blocksIn(number);
  const index = block - first!;
  return access.data[rest.length === 3 ? index : Math.floor(index / 5)]!;
}

/** The condition of a data block that allows exactly this; undefined where none does. */
export function conditionFor(wanted: DataAccess): number | undefined {
  const found = [0, 1, 2, 3, 4, 5, 6, 7].find((bits) => {
    const { read, write, increment, decrement } = dataAccess(bits);
    return (
      read === wanted.read && write === wanted.write && increment === wanted.increment && decrement === wanted.decrement
    );
  });
  return found;
}

export function problemsOfSectors(plan: SectorPlan): PlanProblem[] {
  const found: PlanProblem[] = [];
  const seen = new Set<number>();
  for (const [i, sector] of plan.sectors.entries()) {
    const add = (weight: PlanProblem['weight'], code: string, where: string, message: string) =>
      void found.push({ weight, code, message, where: `sectors.${i}.${where}` });
    const { number, keyA, keyB, access } = sector;
    if (number >= sectorsOf(plan))
      add('error', 'no-sector', 'number', `A card of ${plan.size} has no sector ${number}.`);
    if (seen.has(number)) add('error', 'doubled', 'number', `Sector ${number} stands there twice.`);
    seen.add(number);
    const size = 16 * (blocksIn(number).length - 1);
    for (const { code, message, field } of problemsOfFields(sector.fields, size))
      add('error', code, `fields.${field}`, message);
    if (number === 0 && sector.fields.some(({ at = 0 }) => at < (plan.directory ? 48 : 16)))
      add(
        'error',
        'makers-block',
        'fields',
        plan.directory
          ? 'Sector 0 holds the directory and nothing else.'
          : 'The first sixteen bytes of sector 0 are the maker’s.',
      );
    if (sector.application !== null && (!plan.directory || number < 1 || number > 15))
      add('error', 'directory', 'application', 'Only sectors 1 to 15 of a card with a directory stand in it.');
    const trailer = trailerAccess(access.trailer);
    if (keyB !== null && trailer.keyBRead !== '')
      add('advice', 'key-b-read', 'access.trailer', 'Key A reads key B here, and key B authenticates nobody.');
    if (keyA === null) add('advice', 'factory-key', 'keyA', 'Key A stays the factory’s, which everybody knows.');
    if (keyB === null && trailer.keyBRead === '')
      add('advice', 'factory-key', 'keyB', 'Key B stays the factory’s, which everybody knows.');
    if (trailer.keyAWrite + trailer.bitsWrite + trailer.keyBWrite === '')
      add(
        'error',
        'locks',
        'access.trailer',
        'This locks the sector: neither its keys nor its access bits could ever be changed again.',
      );
    else if (trailer.bitsWrite === '')
      add('advice', 'frozen', 'access.trailer', 'What the blocks of this sector allow can never be changed again.');
  }
  return found;
}

/** The names of the keys, each once, in the order in which they stand. */
export const keyNamesOfSectors = ({ sectors }: SectorPlan): string[] => [
  ...new Set(sectors.flatMap(({ keyA, keyB }) => [keyA, keyB]).filter((key) => key !== null)),
];
