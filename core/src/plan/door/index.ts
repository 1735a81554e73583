/** Readers at doors that read a card by its plan: their settings, and what they make of a card. */
export { deliveredAt } from './delivered.ts';
export { type DoorReading, type DoorStep, doorKey, type ReaderKey, readAtDoor } from './read.ts';
export {
  credentialFields,
  type FileReader,
  fileReaderSchema,
  isCredential,
  type ReaderByPlan,
  readerByPlanSchema,
  readerFor,
} from './settings.ts';
