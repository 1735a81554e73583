/** Who may do what: key settings of a level, and the four rights of a file (DOMAIN §4, CHIPS). */
import type { FilesCard } from './card.ts';
import type { Application, CardFile } from './memory.ts';
import type { Mode } from './session.ts';
import { refuse } from './status.ts';

export const FREE = 0xe;
export const NEVER = 0xf;

export const SETTINGS = { masterChangeable: 1, freeDirectory: 2, freeCreate: 4, changeable: 8 } as const;

/** Refuses `authentication` unless a level's settings leave something free, or its key 0 is authenticated. */
export function needsMaster({ level, session }: FilesCard, free = 0): void {
  if (free !== 0 && level.settings & free) return;
  if (session?.key !== 0) refuse('authentication');
}

/** Refuses `permission` on the card's own level, or within an application. */
export const onlyOnCard = ({ level, memory }: FilesCard): void => void (level !== memory.card && refuse('permission'));
export const onlyInApplication = ({ level, memory }: FilesCard): void =>
  void (level === memory.card && refuse('permission'));

const MODES: Record<CardFile['mode'], Mode> = { 0: 'plain', 1: 'mac', 3: 'full' };

export const readRight = ({ rights }: CardFile): number => rights >> 12;
export const writeRight = ({ rights }: CardFile): number => (rights >> 8) & 15;
export const bothRight = ({ rights }: CardFile): number => (rights >> 4) & 15;
export const changeRight = ({ rights }: CardFile): number => rights & 15;

/**
 * How data go where one of these rights is held: in the file's mode where the session's own key holds one, plain where only
 * E grants it. Refuses `permission` where none can be held, and `authentication` where none is.
 */
export function modeBy({ session }: FilesCard, file: CardFile, rights: readonly number[]): Mode {
  if (session && rights.includes(session.key)) return MODES[file.mode];
  if (rights.includes(FREE)) return 'plain';
  return refuse(rights.every((right) => right === NEVER) ? 'permission' : 'authentication');
}

/** Which key changes the key `target` of a level. Refuses `permission` where none does. */
export function changingKey({ settings }: Application, target: number, isCard: boolean): number {
  if (target === 0) return settings & SETTINGS.masterChangeable ? 0 : refuse('permission');
  const by = settings >> 4;
  if (isCard || by === NEVER) return refuse('permission');
  // The changing key itself is changed by key 0 alone [mem].
  if (by === FREE) return target;
  return by === target ? 0 : by;
}
