/** File-system cards: memory, sessions, rights, commands. */
export type { Random } from './authenticate.ts';
export { FilesCard } from './card.ts';
export { FILES_COMMANDS, type FilesCommand } from './codes.ts';
export {
  type Application,
  type Blank,
  blankFiles,
  type CardFile,
  type CardKeyKind,
  type DataFile,
  dumpFiles,
  type FilesMemory,
  freeMemory,
  type Generation,
} from './memory.ts';
export { NewerSession, OldestSession, type Session, StandardSession } from './session.ts';
export { STATUS, type Status } from './status.ts';
