/**
 * The memory of a controller: a snapshot of what it holds and a journal of what came since, so that keeping a change
 * costs the change. Every `kill -9` leaves it as it was before a change or after it.
 *
 * A folder a controller: `snapshot.jsonl` begins with its generation, and only `journal-GENERATION.jsonl` goes on from
 * it. Records are those of `record.ts`. When the journal has outgrown the snapshot a new one is written beside it, named
 * in its place, and begins an empty journal.
 */
import { closeSync, fsyncSync, mkdirSync, openSync, readdirSync, renameSync, rmSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import type { ItemChange } from '@rawbits/core/access';
import { cannotKeep, syncFolder } from '../store/memory.ts';
import { readRecord, writeRecord } from '../store/record.ts';
import { linesOf, RecordFile } from '../store/recordFile.ts';

/** What happened to a controller's memory. */
export type Happened =
  | { is: 'begun'; load: string }
  | { is: 'piece'; seq: number; changes: ItemChange[] }
  | { is: 'committed' };

type Items = Iterable<readonly [string, string]>;

type Kept = { is: 'snapshot'; generation: number } | { is: 'items'; items: (readonly [string, string])[] } | Happened;

const ITEMS_A_RECORD = 500;
/** A journal is left to grow to this size, in bytes, however small the snapshot. */
const LEAST_BYTES = 1_000_000;

export interface Replaying {
  items(items: readonly (readonly [string, string])[]): void;
  happened(what: Happened): void;
}

export class ControllerMemory {
  private generation = 0;
  private snapshotBytes = 0;
  private journal: RecordFile;

  /** Opens a controller's folder and tells what is in it, in its order. */
  constructor(
    private readonly folder: string,
    replaying: Replaying,
  ) {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    for (const { line, end } of linesOf(this.snapshotPath)) {
      // The snapshot was put in its place whole; a record that is damaged since is lost, and the digest tells.
      const kept = readRecord(line) as Kept | undefined;
      if (kept?.is === 'snapshot') this.generation = kept.generation;
      else if (kept?.is === 'items') replaying.items(kept.items);
      else if (kept) replaying.happened(kept);
      this.snapshotBytes = end;
    }
    let whole = 0;
    for (const { line, end, open } of linesOf(this.journalPath)) {
      const kept = open ? undefined : (readRecord(line) as Happened | undefined);
      // What follows a record that was not written whole was never acknowledged.
      if (!kept) break;
      replaying.happened(kept);
      whole = end;
    }
    this.journal = new RecordFile(this.journalPath);
    if (this.journal.size > whole) this.journal.cut(whole);
    this.clearAway();
  }

  private get snapshotPath(): string {
    return join(this.folder, 'snapshot.jsonl');
  }

  private get journalPath(): string {
    return join(this.folder, `journal-${this.generation}.jsonl`);
  }

  /** Keeps what happened, durably; throws `rig-memory` and nothing has happened. */
  keep(what: Happened): void {
    this.journal.put(writeRecord(what));
  }

  /** Whether a new snapshot is worth its writing. */
  get hasOutgrown(): boolean {
    return this.journal.size > Math.max(LEAST_BYTES, this.snapshotBytes);
  }

  /** Writes a new snapshot of all items, between loads; on a full disk the old one and its journal stay. */
  snapshot(items: Items): void {
    const draft = join(this.folder, 'snapshot.draft');
    const next = this.generation + 1;
    try {
      const bytes = writeSnapshot(draft, next, items);
      renameSync(draft, this.snapshotPath);
      syncFolder(this.folder);
      this.snapshotBytes = bytes;
    } catch (error) {
      rmSync(draft, { force: true });
      throw cannotKeep(error);
    }
    this.journal.close();
    this.generation = next;
    this.journal = new RecordFile(this.journalPath);
    this.clearAway();
  }

  /** Journals of earlier generations are in the snapshot. */
  private clearAway(): void {
    for (const name of readdirSync(this.folder))
      if (/^journal-\d+[.]jsonl$|[.]draft$/.test(name) && name !== `journal-${this.generation}.jsonl`)
        rmSync(join(this.folder, name), { force: true });
  }

  close(): void {
    this.journal.close();
  }
}

function writeSnapshot(path: string, generation: number, items: Items): number {
  const file = openSync(path, 'w', 0o600);
  let size = 0;
  const write = (kept: Kept): void => {
    const bytes = writeRecord(kept);
    for (let done = 0; done < bytes.length; ) done += writeSync(file, bytes, done);
    size += bytes.length;
  };
  try {
    write({ is: 'snapshot', generation });
    for (const some of inTurns(items)) write({ is: 'items', items: some });
    fsyncSync(file);
  } finally {
    closeSync(file);
  }
  return size;
}

function* inTurns<T>(all: Iterable<T>): Generator<T[]> {
  let some: T[] = [];
  for (const one of all) {
    some.push(one);
    if (some.length < ITEMS_A_RECORD) continue;
    yield some;
    some = [];
  }
  if (some.length > 0) yield some;
}
