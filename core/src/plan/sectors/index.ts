/** Plans of sector cards: their conditions, their reach, and a card with one on it. */
export {
  bringSectors,
  compareSectors,
  DIRECTORY_KEY,
  directoryBytes,
  FACTORY,
  freeSectors,
  type SectorBringing,
  type SectorRing,
} from './bring.ts';
export {
  encodeSectors,
  type SectorKey,
  SectorPlayer,
  standInBlankSectors,
  standInSectorKey,
  standInSectors,
} from './card.ts';
export { blocksAt, readingKeys } from './forge.ts';
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
  sectorsToBring,
  trailerOfSector,
} from './plan.ts';
export { reachesOfSectors, reachOfSectors, type SectorAbility, type SectorStep } from './reach.ts';
