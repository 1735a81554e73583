/** Sector cards: blocks, keys, access bits, values, the application directory. */
export { accessBits, accessBytes, type DataAccess, dataAccess, type KeyName, trailerAccess } from './access.ts';
export {
  blankSectors,
  blocksOf,
  dumpSectors,
  type SectorRefusal,
  SectorRefused,
  SectorsCard,
  type SectorsMemory,
  sectorOf,
} from './card.ts';
export { type Directory, directoryCrc, directoryIn, filesIdFrom } from './directory.ts';
export { SECTOR_COMMANDS, type SectorCommand, sectorFrame } from './frames.ts';
export { valueBlock, valueIn } from './value.ts';
