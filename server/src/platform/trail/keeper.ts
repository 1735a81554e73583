/**
 * The trail's key and its anchors. Each entry carries a keyed hash (HMAC-SHA-256) over itself, made when it is written,
 * and, once it is sealed, one over that, its number and the hash before it: one chain a site and one for the house. The
 * key is not in the database. After each sealing the head is noted in a file outside it, the anchor, so that cutting
 * entries off shows. What is taken out before it was sealed and noted cannot be told from a commit that failed.
 *
 * An anchor moves only from an entry that still stands: it never passes a break. Where it does not move, or is not
 * there, verification says so until an administrator settles it. Several servers may each have a folder of their own:
 * a chain that this one has never seen (another server began it) is noted as it is found; one that it knows and whose
 * note is gone has lost it.
 */
import { createHmac } from 'node:crypto';
import { closeSync, fsyncSync, mkdirSync, openSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** An entry as it is written. */
export interface WrittenEntry {
  chain: string;
  name: string;
  at: Date;
  operatorId: string;
  operator: string;
  action: string;
  subject: string;
  before: string;
  after: string;
}

/** An entry in its place; `mac` is empty in those from before entries were keyed when they are written. */
export interface ChainedEntry extends WrittenEntry {
  seq: number;
  mac: string;
  previous: string;
}

/** An entry of a chain by number and hash; number 0 with an empty hash is before the first. */
export interface Anchor {
  seq: number;
  hash: string;
}

/** The hash that an entry has in the database now; undefined where there is none. */
export type HashAt = (seq: number) => Promise<string | undefined>;

export class TrailKeeper {
  /** The chains that were ever noted here; undefined until `meet` has settled which those are. */
  private known?: Set<string>;

  /** `fresh` says that the folder has just been made, so that nothing can have been lost from it. */
  constructor(
    private readonly key: Buffer,
    private readonly folder: string,
    fresh: boolean,
  ) {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    const kept = readJson<string[]>(this.knownFile);
    if (Array.isArray(kept)) this.known = new Set(kept);
    else if (fresh) this.known = new Set();
  }

  private get knownFile(): string {
    return join(this.folder, 'known-chains.json');
  }

  /**
   * Told of a chain and its head, as the database has them. One that is new here is noted; where the list of known ones
   * is gone, every chain with entries counts as known.
   */
  meet(heads: readonly ({ chain: string } & Anchor)[]): void {
    this.known ??= new Set(heads.filter(({ seq }) => seq > 0).map(({ chain }) => chain));
    for (const { chain, ...head } of heads) if (!this.knows(chain)) this.place(chain, head);
  }

  /** Whether a chain's head was noted here once: then a missing note is a lost one. */
  knows(chain: string): boolean {
    if (!this.known || this.known.has(chain)) return true;
    // Another server with this folder may have met it since.
    for (const other of readJson<string[]>(this.knownFile) ?? []) this.known.add(other);
    return this.known.has(chain);
  }

  /** Tells this key from another without giving it away. */
  get fingerprint(): string {
    return createHmac('sha256', this.key).update('rawbits trail key').digest('hex').slice(0, 32);
  }

  /** HMAC-SHA-256 of a text under the trail's key: what is only known by its hash in the database cannot be guessed at. */
  keyed(text: string): string {
    return createHmac('sha256', this.key).update(`request ${text}`).digest('hex');
  }

  /** The keyed hash of an entry by itself. */
  macOf(entry: WrittenEntry): string {
    return this.hmac(['written', entry.name, ...partsOf(entry)]);
  }

  /** The hash by which an entry stands in its chain. */
  hashOf(entry: ChainedEntry): string {
    const { seq, mac, previous, name } = entry;
    return this.hmac(['sealed', seq, name, mac, ...partsOf(entry), previous]);
  }

  /** As `hashOf`, for entries from before they had names and keyed hashes of their own. */
  formerHashOf(entry: ChainedEntry): string {
    const [chain, ...rest] = partsOf(entry);
    return this.hmac([chain, entry.seq, ...rest, entry.previous]);
  }

  private hmac(parts: unknown[]): string {
    return createHmac('sha256', this.key).update(JSON.stringify(parts)).digest('hex');
  }

  private file(chain: string): string {
    return join(this.folder, `${chain.replace(/[^a-z0-9]/g, '_')}.json`);
  }

  /** The last head noted for a chain; undefined where none is, or its file is damaged. */
  anchorOf(chain: string): Anchor | undefined {
    const { seq, hash } = readJson<Partial<Anchor>>(this.file(chain)) ?? {};
    return Number.isInteger(seq) && typeof hash === 'string' ? { seq: seq!, hash } : undefined;
  }

  /**
   * Notes that a chain goes from one head to the next. The anchor stays where it is when the entry that it names does
   * not stand any more, and where there should be one and is none.
   */
  async advance(chain: string, from: Anchor, to: Anchor, hashAt: HashAt): Promise<void> {
    const anchor = this.anchorOf(chain);
    if (!anchor) {
      if (!this.knows(chain)) this.place(chain, to);
      return;
    }
    if (anchor.seq >= to.seq || anchor.seq > from.seq) return;
    const stands = anchor.seq === from.seq ? from.hash : await hashAt(anchor.seq);
    if (stands !== anchor.hash) return;
    const now = this.anchorOf(chain);
    if (now && now.seq < to.seq) this.place(chain, to);
  }

  /** Writes an anchor, whatever was there: durable when this returns. */
  place(chain: string, { seq, hash }: Anchor): void {
    this.write(this.file(chain), { seq, hash });
    if (this.known?.has(chain)) return;
    const known = new Set([...(this.known ?? []), ...(readJson<string[]>(this.knownFile) ?? []), chain]);
    this.write(this.knownFile, [...known]);
    this.known = known;
  }

  private write(file: string, value: unknown): void {
    const draft = `${file}.${process.pid}`;
    const handle = openSync(draft, 'w', 0o600);
    try {
      writeFileSync(handle, JSON.stringify(value));
      fsyncSync(handle);
    } finally {
      closeSync(handle);
    }
    renameSync(draft, file);
    const folder = openSync(this.folder, 'r');
    fsyncSync(folder);
    closeSync(folder);
  }
}

const partsOf = ({ chain, at, operatorId, operator, action, subject, before, after }: WrittenEntry): string[] => [
  chain,
  // A time that is none was put there by hand: it has to be told, and must not stop who tells it.
  Number.isNaN(at.getTime()) ? 'no time' : at.toISOString(),
  operatorId,
  operator,
  action,
  subject,
  before,
  after,
];

/** What a file holds; undefined where it is not there, or damaged. */
function readJson<T>(file: string): T | undefined {
  try {
    return (JSON.parse(readFileSync(file, 'utf8')) ?? undefined) as T | undefined;
  } catch {
    return undefined;
  }
}
