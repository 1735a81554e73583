/**
 * The mark of a restore that is under way: made before anything else in the data folder, and taken away when all is there, or
 * when nothing is left. While it stands, what is beside it is no Raw Bits: it is not started, and the next restore clears it away.
 */
import { closeSync, fsyncSync, openSync, readFileSync, rmSync, writeSync } from 'node:fs';
import { join } from 'node:path';

export const RESTORE_MARK = 'restore-unfinished';

interface RestoreMark {
  pid: number;
  /** The backup. */
  file: string;
  /** The address of a database elsewhere, without what signs in; null for our own. */
  database: string | null;
}

/** Makes the mark; false where another has just made it. */
export function beginRestore(data: string, about: Omit<RestoreMark, 'pid'>): boolean {
  let handle: number;
  try {
    handle = openSync(join(data, RESTORE_MARK), 'wx', 0o600);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'EEXIST') return false;
    throw error;
  }
  writeSync(handle, JSON.stringify({ pid: process.pid, ...about }));
  fsyncSync(handle);
  closeSync(handle);
  return true;
}

export const endRestore = (data: string): void => rmSync(join(data, RESTORE_MARK), { force: true });

/** The restore that was begun in a data folder and has not ended; undefined where none was. */
export function unfinishedRestore(data: string): (RestoreMark & { isUnderWay: boolean }) | undefined {
  let text: string;
  try {
    text = readFileSync(join(data, RESTORE_MARK), 'utf8');
  } catch {
    return undefined;
  }
  try {
    const mark = JSON.parse(text) as RestoreMark;
    return { ...mark, isUnderWay: isRestoring(mark.pid) };
  } catch {
    // It was killed before it had written what it is.
    return { pid: 0, file: 'FILE', database: null, isUnderWay: false };
  }
}

function isRestoring(pid: number): boolean {
  try {
    return pid !== process.pid && readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('admin.mjs');
  } catch {
    return false;
  }
}
