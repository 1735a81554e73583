/** A file of records that only grows: what was appended is whole on the disk, or not there at all. */
import { closeSync, existsSync, fstatSync, fsyncSync, ftruncateSync, openSync, readFileSync, writeSync } from 'node:fs';
import { dirname } from 'node:path';
import { cannotKeep, syncFolder } from './memory.ts';

export class RecordFile {
  private readonly file: number;
  private kept: number;

  /** Opens it, making it where it is not there. */
  constructor(path: string) {
    this.file = openSync(path, 'a', 0o600);
    syncFolder(dirname(path));
    this.kept = fstatSync(this.file).size;
  }

  /** In bytes. */
  get size(): number {
    return this.kept;
  }

  /** Writes all of it, durably, or nothing; throws `rig-memory`. */
  put(bytes: Buffer): void {
    try {
      // A write may take only a part, on a full disk above all; the next one then says why.
      for (let done = 0; done < bytes.length; ) done += writeSync(this.file, bytes, done);
      fsyncSync(this.file);
      this.kept += bytes.length;
    } catch (error) {
      ftruncateSync(this.file, this.kept);
      throw cannotKeep(error);
    }
  }

  /** Takes off what stands after `size` bytes. */
  cut(size: number): void {
    ftruncateSync(this.file, size);
    fsyncSync(this.file);
    this.kept = size;
  }

  close(): void {
    closeSync(this.file);
  }
}

/** The lines of a file without their ends, each with where the next begins; an open last line too. */
export function* linesOf(path: string): Generator<{ line: Buffer; end: number; open: boolean }> {
  if (!existsSync(path)) return;
  const bytes = readFileSync(path);
  for (let from = 0; from < bytes.length; ) {
    const at = bytes.indexOf(0x0a, from);
    const end = at < 0 ? bytes.length : at + 1;
    yield { line: bytes.subarray(from, at < 0 ? end : at), end, open: at < 0 };
    from = end;
  }
}
