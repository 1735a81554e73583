/** Readers at doors that read a card by its plan: their settings, and what they make of a card. */
export {
  type CredentialPlace,
  deliveredAt,
  keysOfReader,
  placeSchema,
  placesOf,
  placeWords,
  type ReaderByPlan,
  type ReaderSettings,
  readerAt,
  readerByPlanSchema,
  readerSettingsSchema,
} from './places.ts';
export { type DoorReading, type DoorStep, doorKey, type ReaderKey, readAtDoor } from './read.ts';
export { readSectorAtDoor, type SectorReader } from './sectors.ts';
export { type FileReader, fileReaderSchema, readerFor } from './settings.ts';
export { readTagAtDoor, type TagReader } from './tags.ts';
