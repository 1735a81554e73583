/** The commands of a file-system card by their codes. */
import type { FilesCard, Result } from './card.ts';
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

const COMMANDS = new Map<number, Command>([...levelCommands, ...keyCommands, ...fileCommands, ...dataCommands]);

export const commandOf = (code: number): Command => COMMANDS.get(code) ?? refuse('illegalCommand');
