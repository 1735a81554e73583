/** The settings of a file as a card tells them (GetFileSettings; CHIPS, "Layouts of commands and answers"). */
import { fail } from '../../failure/index.ts';
import type { FileMode } from '../../host/index.ts';
import type { PlanFile, Who } from '../schema/index.ts';

const KINDS: PlanFile['kind'][] = ['standard', 'backup', 'value', 'linear', 'cyclic'];
const MODES: Record<number, FileMode> = { 0: 'plain', 1: 'maced', 3: 'enciphered' };

export interface FileThere {
  kind: PlanFile['kind'];
  mode: FileMode;
  rights: PlanFile['rights'];
  /** What cannot be changed without making the file anew. */
  shape: string;
}

const who = (nibble: number): Who => (nibble === 14 ? 'free' : nibble === 15 ? 'never' : nibble);
const three = (bytes: Uint8Array, at: number): number => bytes[at]! | (bytes[at + 1]! << 8) | (bytes[at + 2]! << 16);

/** Kind, mode, rights 2, then size 3; or lower 4, upper 4, limited credit 4, flags; or record size 3, most 3, now 3. */
export function fileIn(bytes: Uint8Array): FileThere {
  const kind = KINDS[bytes[0]!];
  const mode = MODES[bytes[1]! & 3];
  if (!kind || !mode || bytes.length < 7) fail('file-settings', 'The card describes a file that is of no known kind.');
  const [low, high] = [bytes[2]!, bytes[3]!];
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const shape =
    kind === 'value'
      ? `value ${view.getInt32(4, true)} ${view.getInt32(8, true)} ${(bytes[16]! & 1) === 1}`
      : kind === 'standard' || kind === 'backup'
        ? `${kind} ${three(bytes, 4)}`
        : `${kind} ${three(bytes, 4)} ${three(bytes, 7)}`;
  return {
    kind: kind!,
    mode: mode!,
    rights: { read: who(high >> 4), write: who(high & 15), both: who(low >> 4), change: who(low & 15) },
    shape,
  };
}

/** The shape that a plan gives a file. */
export function shapeOf(file: PlanFile): string {
  if (file.kind === 'value') return `value ${file.lower} ${file.upper} ${file.limitedCredit}`;
  return 'records' in file ? `${file.kind} ${file.size} ${file.records}` : `${file.kind} ${file.size}`;
}

const RIGHTS = ['read', 'write', 'both', 'change'] as const;
export const sameRights = (a: PlanFile['rights'], b: PlanFile['rights']): boolean =>
  RIGHTS.every((right) => a[right] === b[right]);

/**
 * The rights of a file until it has what belongs in it: key 0 does everything. They tell a file that is not finished from
 * one that is, so they are never those that were planned.
 */
export const buildingRights = (planned: PlanFile['rights']): PlanFile['rights'] => {
  const all = { read: 0, write: 0, both: 0, change: 0 } as const;
  return sameRights(all, planned) ? { ...all, both: 'never' } : all;
};
