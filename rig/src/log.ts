/** The rig's log: what was presented where, numbered, one JSON line each, kept on disk before it is told to anybody. */
import { randomBytes } from 'node:crypto';
import { EventEmitter } from 'node:events';
import { closeSync, existsSync, fsyncSync, mkdirSync, openSync, readFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import type { Decision } from '@rawbits/core/access';
import { readMemory, writeMemory } from './memory.ts';

export interface LogEntry {
  seq: number;
  at: string;
  reader: string;
  controller: string | null;
  bits: string;
  decision: Decision | null;
}

const AT_ONCE = 500;

export class Log {
  /** Tells this log from any other that a server may have followed. */
  readonly epoch: string;
  private readonly entries: LogEntry[] = [];
  private readonly file: number;
  private readonly news = new EventEmitter().setMaxListeners(0);

  constructor(folder: string) {
    mkdirSync(folder, { recursive: true });
    const epochFile = join(folder, 'epoch.json');
    this.epoch = readMemory(epochFile, { epoch: randomBytes(8).toString('hex') }).epoch;
    writeMemory(epochFile, { epoch: this.epoch });
    const path = join(folder, 'log.jsonl');
    if (existsSync(path)) {
      for (const line of readFileSync(path, 'utf8').split('\n')) {
        try {
          if (line) this.entries.push(JSON.parse(line) as LogEntry);
        } catch {
          // The last line of a rig that was killed while it wrote; nobody was told of it.
        }
      }
    }
    this.file = openSync(path, 'a', 0o600);
    if (existsSync(path) && !readFileSync(path, 'utf8').match(/(^|\n)$/)) writeSync(this.file, '\n');
  }

  append(entry: Omit<LogEntry, 'seq'>): LogEntry {
    const whole = { seq: (this.entries.at(-1)?.seq ?? 0) + 1, ...entry };
    writeSync(this.file, `${JSON.stringify(whole)}\n`);
    fsyncSync(this.file);
    this.entries.push(whole);
    this.news.emit('entry');
    return whole;
  }

  /** Entries after a number; waits up to `waitMs` for the first when there is none yet. */
  async after(seq: number, waitMs: number): Promise<LogEntry[]> {
    const now = () => this.entries.filter((entry) => entry.seq > seq).slice(0, AT_ONCE);
    if (now().length > 0 || waitMs <= 0) return now();
    await new Promise<void>((resolve) => {
      const timer = setTimeout(done, waitMs);
      const { news } = this;
      function done(): void {
        clearTimeout(timer);
        news.off('entry', done);
        resolve();
      }
      news.on('entry', done);
    });
    return now();
  }

  close(): void {
    closeSync(this.file);
  }
}
