/** Why Raw Bits does not start, in a sentence for whoever started it. */
import { accessSync, constants, existsSync } from 'node:fs';
import { userInfo } from 'node:os';
import { dirname } from 'node:path';
import { unfinishedRestore } from './restoreMark.ts';

/** A sentence for whoever started it; no stack. */
export class Told extends Error {}

/** What was thrown, in a sentence; `data` is the folder that it is about where it names none. */
export function wordsFor(error: unknown, data: string): string {
  if (error instanceof Told) return error.message;
  const { message, path } = error as NodeJS.ErrnoException;
  const code = codeOf(error as NodeJS.ErrnoException);
  const where = path ?? data;
  const other = 'Choose another folder: RAWBITS_DATA=/… bin/start';
  if (code === 'EACCES' || code === 'EPERM')
    return `${userInfo().username} may not write to ${where}. ${other}, or start it as the owner of this one.`;
  if (code === 'EROFS') return `${where} is on a disk that can only be read. ${other}`;
  if (code === 'ENOTDIR' || code === 'EEXIST') return `${where} is no folder. ${other}`;
  if (code === 'ENOSPC' || code === 'EDQUOT') return `The disk of ${where} is full. Free some space.`;
  return `Raw Bits did not start: ${message}`;
}

/** What a file system refused with. Of a folder that cannot be made on a disk that is only read Node tells that it is not there. */
function codeOf({ code, path, syscall }: NodeJS.ErrnoException): string | undefined {
  if (code !== 'ENOENT' || syscall !== 'mkdir' || path === undefined) return code;
  let there = path;
  while (!existsSync(there)) there = dirname(there);
  try {
    accessSync(there, constants.W_OK);
    return code;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code;
  }
}

/** What a restore that has not ended left is no Raw Bits, and no empty folder either. */
export function refuseHalfRestored(data: string, fresh: boolean): void {
  const restore = unfinishedRestore(data);
  if (restore?.isUnderWay)
    throw new Told(`A restore into ${data} is under way (process ${restore.pid}). Start when it is done.`);
  if (restore && !fresh)
    throw new Told(
      `A restore into ${data} was broken off. Do it again: RAWBITS_DATA=${data} bin/rawbits-admin restore ${restore.file}`,
    );
}
