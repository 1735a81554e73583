/**
 * Memory of a device: one JSON file each, written whole or not at all, so that it outlives every process and a full
 * disk.
 */
import {
  closeSync,
  existsSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { dirname } from 'node:path';
import { RawBitsError } from '@rawbits/core/failure';

export function readMemory<T>(file: string, empty: T): T {
  return existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as T) : empty;
}

/** Throws `rig-memory`, the old memory untouched, when it cannot be kept. */
export function writeMemory(file: string, value: unknown): void {
  const draft = `${file}.draft`;
  try {
    mkdirSync(dirname(file), { recursive: true });
    const handle = openSync(draft, 'w', 0o600);
    try {
      // Unlike a single write, this goes on until all of it is written.
      writeFileSync(handle, JSON.stringify(value));
      fsyncSync(handle);
    } finally {
      closeSync(handle);
    }
    renameSync(draft, file);
    syncFolder(dirname(file));
  } catch (error) {
    rmSync(draft, { force: true });
    throw cannotKeep(error);
  }
}

/** Makes a new name in a folder durable. */
export function syncFolder(folder: string): void {
  const handle = openSync(folder, 'r');
  fsyncSync(handle);
  closeSync(handle);
}

export function cannotKeep(error: unknown): RawBitsError {
  const { code } = error as NodeJS.ErrnoException;
  const full = code === 'ENOSPC' || code === 'EDQUOT' || code === 'EFBIG';
  return new RawBitsError({
    code: 'rig-memory',
    message: full ? 'The rig’s disk is full: it can keep nothing more.' : `The rig cannot keep anything (${code}).`,
    hint: 'Free some space and try again.',
  });
}
