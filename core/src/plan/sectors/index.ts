/** Plans of sector cards: their conditions, their reach, and a card with one on it. */
export { encodeSectors, FACTORY, type SectorKey, SectorPlayer, standInSectorKey } from './card.ts';
export {
  blocksIn,
  conditionFor,
  conditionOf,
  everySector,
  keyNamesOfSectors,
  type PlanSector,
  problemsOfSectors,
  type SectorPlan,
  sectorPlanSchema,
  sectorsOf,
} from './plan.ts';
export { reachesOfSectors, reachOfSectors, type SectorAbility, type SectorStep } from './reach.ts';
