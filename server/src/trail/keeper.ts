/**
 * The trail's chain. Each entry carries a keyed hash (HMAC-SHA-256) over itself and the hash before it, one chain a
 * site and one for the house. The key is not in the database, and after each commit the head is noted in a file, so
 * that a changed, removed or cut-off entry shows. What was cut off within the moment between a commit and its note
 * cannot be told from a commit that failed.
 */
import { createHmac } from 'node:crypto';
import { mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

export interface ChainedEntry {
  chain: string;
  seq: number;
  at: Date;
  operatorId: string;
  operator: string;
  action: string;
  subject: string;
  before: string;
  after: string;
  previous: string;
}

export interface Anchor {
  seq: number;
  hash: string;
}

export class TrailKeeper {
  constructor(
    private readonly key: Buffer,
    private readonly folder: string,
  ) {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
  }

  hashOf(entry: ChainedEntry): string {
    const { chain, seq, at, operatorId, operator, action, subject, before, after, previous } = entry;
    const text = JSON.stringify([
      chain,
      seq,
      at.toISOString(),
      operatorId,
      operator,
      action,
      subject,
      before,
      after,
      previous,
    ]);
    return createHmac('sha256', this.key).update(text).digest('hex');
  }

  private file(chain: string): string {
    return join(this.folder, `${chain.replace(/[^a-z0-9]/g, '_')}.json`);
  }

  /** The last head noted for a chain. */
  anchorOf(chain: string): Anchor | undefined {
    try {
      return JSON.parse(readFileSync(this.file(chain), 'utf8')) as Anchor;
    } catch {
      return undefined;
    }
  }

  /** Notes a head; an older one never replaces a newer. */
  remember(chain: string, anchor: Anchor): void {
    const last = this.anchorOf(chain);
    if (last && last.seq >= anchor.seq) return;
    const draft = `${this.file(chain)}.${process.pid}`;
    writeFileSync(draft, JSON.stringify(anchor), { mode: 0o600 });
    renameSync(draft, this.file(chain));
  }
}
