/**
 * A controller of the rig. It receives pulses, cuts a number out of them and decides by what was loaded into it. A load
 * comes as changes, piece by piece, and takes force only when all have come and the digest of what it would then hold
 * agrees; one that broke off is gone on with where it stopped.
 */
import { createHash } from 'node:crypto';
import { existsSync, rmSync } from 'node:fs';
import {
  type ControllerImage,
  canonicalJson,
  cardKey,
  carried,
  checkItem,
  type Decision,
  EMPTY_IMAGE,
  FACILITY_COMPARED,
  formatKey,
  Holdings,
  type ItemChange,
  itemHash,
} from '@rawbits/core/access';
import type { Bits } from '@rawbits/core/bits';
import { fail } from '@rawbits/core/failure';
import { readMemory } from '../store/memory.ts';
import { ControllerMemory, type Happened } from './controllerMemory.ts';

export const sha256 = (text: string): string => createHash('sha256').update(text).digest('hex');

interface Draft {
  load: string;
  /** The number of the last piece that came. */
  taken: number;
  changes: Map<string, string | null>;
  /** Of what it would hold with them, carried forward piece by piece. */
  digest: string;
}

export class Controller {
  private readonly holdings = new Holdings(sha256);
  private readonly memory: ControllerMemory;
  private draft: Draft | undefined;

  /** `folder` is where it remembers; `olderFile` what it remembered in before it had one, taken over once. */
  constructor(
    readonly id: string,
    folder: string,
    olderFile?: string,
  ) {
    this.memory = new ControllerMemory(folder, {
      items: (items) => this.holdings.apply(items),
      happened: (what) => this.follow(what),
    });
    if (olderFile && existsSync(olderFile)) this.takeOver(olderFile);
  }

  private takeOver(file: string): void {
    this.holdings.apply(itemsOf(readMemory<ControllerImage>(file, EMPTY_IMAGE)));
    this.memory.snapshot(this.holdings.entries());
    rmSync(file, { force: true });
  }

  get digest(): string {
    return this.holdings.digest;
  }

  /** How many items it holds. */
  get size(): number {
    return this.holdings.size;
  }

  /** What it holds, as keys and texts. */
  entries(): Iterable<readonly [string, string]> {
    return this.holdings.entries();
  }

  /** What it makes of a read at an instant (milliseconds since 1970) from one of its readers. */
  decide(bits: Bits, atMs: number, reader: string | undefined): Decision {
    return this.holdings.decide(bits, atMs, reader);
  }

  /**
   * Begins a load of changes to what it holds, whose digest the sender takes to be `base`; throws `digest` where it
   * holds something else. Gives the number of the last piece that came of this very load: it goes on after that.
   */
  beginLoad(load: string, base: string): number {
    if (this.draft?.load === load) return this.draft.taken;
    if (this.digest !== base)
      fail('digest', `The controller ${this.id} holds something else than is known of it.`, undefined, 'Compare it.');
    this.happen({ is: 'begun', load });
    return 0;
  }

  /** Takes the next piece; one that it has already is passed over. Throws `no-load`, `piece`, `item`, `rig-memory`. */
  takePiece(load: string, seq: number, changes: readonly ItemChange[]): void {
    const { taken } = this.draftOf(load);
    if (seq <= taken) return;
    if (seq !== taken + 1)
      fail('piece', `Piece ${seq} came, and ${taken + 1} was to come.`, undefined, 'Begin the load again.');
    for (const [key, text] of changes) if (text !== null) checkItem(key, text);
    this.happen({ is: 'piece', seq, changes: [...changes] });
  }

  commitLoad(load: string, digest: string): void {
    if (this.draftOf(load).digest !== digest)
      fail('digest', `The controller ${this.id} got something else than was sent.`, undefined, 'Load it again.');
    this.happen({ is: 'committed' });
    // Nobody has to wait for it: the journal has all.
    if (this.memory.hasOutgrown) setImmediate(() => this.compact());
  }

  private compact(): void {
    try {
      if (!this.draft) this.memory.snapshot(this.holdings.entries());
    } catch {
      // A full disk: the journal goes on growing, and it is tried again after the next load.
    }
  }

  /** The digests of the parts below a prefix of places of what it holds, by the next hex digit. */
  digestsBelow(prefix: string): Record<string, string> {
    return this.holdings.digestsBelow(prefix);
  }

  hashesAt(place: string): Record<string, string> {
    return this.holdings.hashesAt(place);
  }

  /** What somebody does at the device itself, past every load. */
  changeByHand(changes: readonly ItemChange[]): void {
    this.happen({ is: 'begun', load: 'by hand' });
    this.happen({ is: 'piece', seq: 1, changes: [...changes] });
    this.happen({ is: 'committed' });
  }

  close(): void {
    this.memory.close();
  }

  private happen(what: Happened): void {
    this.memory.keep(what);
    this.follow(what);
  }

  private follow(what: Happened): void {
    if (what.is === 'begun')
      this.draft = { load: what.load, taken: 0, changes: new Map(), digest: this.holdings.digest };
    else if (what.is === 'piece' && this.draft) this.add(this.draft, what);
    else if (what.is === 'committed' && this.draft) {
      this.holdings.apply(this.draft.changes, this.draft.digest);
      this.draft = undefined;
    }
  }

  private add(draft: Draft, { seq, changes }: Happened & { is: 'piece' }): void {
    const [out, into]: [string[], string[]] = [[], []];
    for (const [key, text] of changes) {
      const before = draft.changes.has(key) ? draft.changes.get(key) : this.holdings.textOf(key);
      if (before != null) out.push(itemHash(sha256, key, before));
      if (text !== null) into.push(itemHash(sha256, key, text));
      draft.changes.set(key, text);
    }
    draft.digest = carried(draft.digest, out, into);
    draft.taken = seq;
  }

  private draftOf(load: string): Draft {
    if (this.draft?.load !== load)
      fail('no-load', `The controller ${this.id} knows nothing of this load.`, undefined, 'Begin it again.');
    return this.draft!;
  }
}

/** The items of an image, as they are loaded. */
export function itemsOf({ formats, credentials, comparesFacility }: ControllerImage): ItemChange[] {
  return [
    [FACILITY_COMPARED, String(comparesFacility)],
    ...formats.map((format): ItemChange => [formatKey(format.id), canonicalJson(format)]),
    ...credentials.map((credential): ItemChange => [cardKey(credential.id), canonicalJson(credential)]),
  ];
}
