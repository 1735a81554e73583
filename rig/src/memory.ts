/** Memory of a device: one JSON file each, written whole or not at all, so that it outlives every process. */
import { closeSync, existsSync, fsyncSync, mkdirSync, openSync, readFileSync, renameSync, writeSync } from 'node:fs';
import { dirname } from 'node:path';

export function readMemory<T>(file: string, empty: T): T {
  return existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as T) : empty;
}

export function writeMemory(file: string, value: unknown): void {
  mkdirSync(dirname(file), { recursive: true });
  const draft = `${file}.draft`;
  const handle = openSync(draft, 'w', 0o600);
  writeSync(handle, JSON.stringify(value));
  fsyncSync(handle);
  closeSync(handle);
  renameSync(draft, file);
}
