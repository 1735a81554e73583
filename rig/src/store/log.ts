/**
 * The rig's log: what was presented where, numbered, one record each, on disk before it is told to anybody. An entry
 * that was told is whole on the disk; one that could not be written whole is taken out again and nobody was told of it.
 * No number is given out twice, and every entry has a name of its own besides: a log put back from an older copy gives
 * numbers out again, but never a name.
 */
import { randomBytes } from 'node:crypto';
import { EventEmitter } from 'node:events';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import type { DoorStep } from '@rawbits/api';
import type { Decision } from '@rawbits/core/access';
import { readMemory, writeMemory } from './memory.ts';
import { readRecord, writeRecord } from './record.ts';
import { linesOf, RecordFile } from './recordFile.ts';

export interface LogEntry {
  seq: number;
  id: string;
  at: string;
  reader: string;
  controller: string | null;
  bits: string;
  /** What a reader that reads chips did, step by step. */
  chip?: DoorStep[];
  decision: Decision | null;
}

/** Where somebody who follows the log is: the last entry taken in, by number and name; the name may be unknown. */
export interface Place {
  epoch: string;
  seq: number;
  entry: string;
}

const AT_ONCE = 500;
const newName = (): string => randomBytes(8).toString('hex');

export class Log {
  private names: { epoch: string; first: string };
  private readonly entries: LogEntry[] = [];
  private next = 1;
  private readonly file: RecordFile;
  private readonly news = new EventEmitter().setMaxListeners(0);

  constructor(private readonly folder: string) {
    mkdirSync(folder, { recursive: true });
    const kept = readMemory<{ epoch?: string; first?: string }>(this.epochFile, {});
    const epoch = kept.epoch ?? newName();
    this.names = { epoch, first: kept.first ?? epoch };
    writeMemory(this.epochFile, this.names);
    const path = join(folder, 'log.jsonl');
    this.read(path);
    this.file = new RecordFile(path);
    if (this.tailIsOpen) this.file.put(Buffer.from('\n'));
  }

  private tailIsOpen = false;

  private get epochFile(): string {
    return join(this.folder, 'epoch.json');
  }

  /** Tells this log from any other that a server may have followed. */
  get epoch(): string {
    return this.names.epoch;
  }

  /** Reads what is there. A line that is not whole keeps its number: it may have been told of before it was damaged. */
  private read(path: string): void {
    for (const { line, open } of linesOf(path)) {
      this.tailIsOpen = open;
      if (line.length === 0) continue;
      const entry = readRecord(line) as LogEntry | undefined;
      if (!entry) {
        this.next++;
        continue;
      }
      // Entries of logs from before they had names are called by the log and their number.
      this.entries.push({ ...entry, id: entry.id ?? `${this.names.first}-${entry.seq}` });
      this.next = Math.max(this.next, entry.seq) + 1;
    }
  }

  /** Keeps an entry and gives it with its number and name. Throws `rig-memory` when it cannot be kept; it then is not. */
  append(entry: Omit<LogEntry, 'seq' | 'id'>): LogEntry {
    const whole = { seq: this.next++, id: newName(), ...entry };
    this.file.put(writeRecord(whole));
    this.entries.push(whole);
    this.news.emit('entry');
    return whole;
  }

  /**
   * Entries after a place; waits up to `waitMs` for the first when there is none yet. Where the place is not in this
   * log (it was put back from an older copy, or lost entries), a new epoch begins: whoever follows goes through all of
   * it again and knows by their names what is new.
   */
  async after(place: Place, waitMs: number): Promise<{ epoch: string; entries: LogEntry[] }> {
    if (place.epoch === this.epoch && !this.has(place)) {
      this.names = { ...this.names, epoch: newName() };
      writeMemory(this.epochFile, this.names);
    }
    if (place.epoch !== this.epoch) return { epoch: this.epoch, entries: [] };
    if (this.entriesAfter(place.seq).length === 0 && waitMs > 0) await this.newEntry(waitMs);
    return { epoch: this.epoch, entries: this.entriesAfter(place.seq) };
  }

  private has({ seq, entry }: Place): boolean {
    if (seq === 0) return true;
    const here = this.entries[this.indexAfter(seq) - 1];
    return here?.seq === seq && (entry === '' || here.id === entry);
  }

  /** How many entries have a number up to `seq`: they stand in the order of their numbers. */
  private indexAfter(seq: number): number {
    let [low, high] = [0, this.entries.length];
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.entries[middle]!.seq <= seq) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  private entriesAfter(seq: number): LogEntry[] {
    const from = this.indexAfter(seq);
    return this.entries.slice(from, from + AT_ONCE);
  }

  private newEntry(waitMs: number): Promise<void> {
    return new Promise((resolve) => {
      const { news } = this;
      const timer = setTimeout(done, waitMs);
      function done(): void {
        clearTimeout(timer);
        news.off('entry', done);
        resolve();
      }
      news.on('entry', done);
    });
  }

  close(): void {
    this.file.close();
  }
}
