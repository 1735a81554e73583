/** The commands of a file-system card by their codes. */
import type { FilesCard, Result } from './card.ts';
import { type CarriedOut, FILES_COMMANDS } from './codes.ts';
import { dataCommands } from './data.ts';
import { fileCommands } from './fileSettings.ts';
import { keyCommands } from './keys.ts';
import { levelCommands } from './levels.ts';
import { refuse } from './status.ts';

export interface Command {
  /** How many bytes the whole command has, all frames together; looked at with its first frame. */
  lengthOf(card: FilesCard, first: Uint8Array): number;
  /** Carries it out; refuses with a status. `data` are all its bytes after the code, as they came. */
  carryOut(card: FilesCard, code: number, data: Uint8Array): Result;
}

/** Commands by their names. */
export type Commands = Partial<Record<CarriedOut, Command>>;

const COMMANDS: Record<CarriedOut, Command> = {
  ...levelCommands,
  ...keyCommands,
  ...fileCommands,
  ...dataCommands,
};
const BY_CODE = new Map<number, Command>(
  (Object.entries(COMMANDS) as [CarriedOut, Command][]).map(([name, command]) => [FILES_COMMANDS[name], command]),
);

export const commandOf = (code: number): Command => BY_CODE.get(code) ?? refuse('illegalCommand');
