/**
 * Making a card that a reader takes for one of the plan's, with what they like in it. A reader authenticates a sector by one of
 * its keys and reads a field. Whoever knows that key puts it on a blank; whoever can write the field on a card of the plan needs
 * none, and neither does who can count in it, as a block that is counted in holds another number afterwards.
 */
import { dataAccess, type KeyName, trailerAccess } from '../../chip/index.ts';
import { placed } from '../fields/index.ts';
import { blocksIn, conditionOf, everySector, type PlanSector, type SectorPlan } from './plan.ts';
import type { SectorAbility, SectorStep } from './reach.ts';

export const forgeText = ({ number }: PlanSector): string => `make a card that reads like sector ${number}`;

/** The sectors that a reader could be set up for: those with a credential in them. */
export const readSectors = (plan: SectorPlan): PlanSector[] =>
  everySector(plan).filter(({ fields }) => placed(fields).length > 0);

/** The keys by which a reader reads some blocks of a sector; a key B that is shown authenticates nobody. */
export function readingKeys(sector: PlanSector, blocks: readonly number[]): KeyName[] {
  const authenticates = trailerAccess(sector.access.trailer).keyBRead === '' ? (['A', 'B'] as const) : (['A'] as const);
  return authenticates.filter((key) =>
    blocks.every((block) => dataAccess(conditionOf(sector, block)).read.includes(key)),
  );
}

const BLOCK = 16;
/** The blocks that bytes of a sector's data stand in, from the first of them up to the one after the last. */
export const blocksAt = (sector: number, from: number, to: number): number[] =>
  blocksIn(sector).slice(Math.floor(from / BLOCK), Math.floor((to - 1) / BLOCK) + 1);

/** Anew, by a key that a reader of one of its fields asks for, or by altering what is there, whichever is shorter. */
export function forging(
  sector: PlanSector,
  knows: (name: string | null) => boolean,
  told: readonly SectorAbility[],
): SectorAbility[] {
  const ways = placed(sector.fields).flatMap(({ from, to }) => {
    const blocks = blocksAt(sector.number, from, to);
    const slot = readingKeys(sector, blocks).find((key) => knows(key === 'A' ? sector.keyA : sector.keyB));
    const anew = slot === undefined ? [] : [onBlank(sector, slot, blocks)];
    return [
      ...anew,
      ...told
        .filter(({ can }) => blocks.some((block) => ALTERS.some((what) => can === `${what} block ${block}`)))
        .map(({ by }) => by),
    ];
  });
  const [by] = ways.sort((a, b) => a.length - b.length);
  return by ? [{ can: forgeText(sector), by }] : [];
}
const ALTERS = ['write', 'increment', 'decrement', 'copy a value into'];

function onBlank(sector: PlanSector, slot: KeyName, blocks: readonly number[]): SectorStep[] {
  const key = slot === 'A' ? sector.keyA : sector.keyB;
  return [
    { do: 'take a blank' },
    ...blocks.map((block) => ({ do: 'write' as const, block })),
    ...(key === null ? [] : [{ do: 'put a key in' as const, sector: sector.number, slot, key }]),
  ];
}
