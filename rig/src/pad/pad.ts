/**
 * The encoder's pad: what lies on it is in its two fields, for cards and for tags. One credential is selected and answers
 * commands, a card before a tag; two of a kind are told apart from one, and refused. A credential can be torn away at a command: before it, after it was carried out and before its
 * answer, or while it writes.
 */
import {
  type ChipMemory,
  copied,
  FilesCard,
  keptText,
  SectorRefused,
  SectorsCard,
  type Selection,
  sectorFrame,
  selectOne,
  torn,
} from '@rawbits/core/chip';
import { fail } from '@rawbits/core/failure';
import { hears, type TagMemory } from '@rawbits/core/lf';
import type { Credential } from '../credential/credentials.ts';

export type Tear = 'before' | 'during' | 'after';

interface Tray {
  get(id: string): Credential | undefined;
  keep(id: string, memory: ChipMemory): void;
  put(id: string, memory: ChipMemory): void;
}
type Draw = (count: number) => Uint8Array;

/** A tag in the field: it has no state but its memory. */
class Tag {
  constructor(readonly memory: TagMemory) {}
  powerOff(): void {}
}
type Card = FilesCard | SectorsCard | Tag;

interface Selected {
  id: string;
  card: Card;
}

export interface Connected extends Selection {
  /** A proximity tag: its identifier is where it comes from. */
  isTag: boolean;
}

const gone = (): never =>
  fail('card-gone', 'The card is gone from the pad.', undefined, 'Lay it on again and begin anew.');

/** Somebody who asked so long ago works there no more. */
const WATCHED_MS = 2000;
/** A card is selected within so long, and let go of within so long. */
const SELECTED_MS = 1500;
const LET_GO_MS = 15_000;
const LOOK_MS = 20;

export class Pad {
  private lying: string[] = [];
  private selected: Selected | undefined;
  private tear: Tear | undefined;
  private tearIn = 0;
  /** Counts how often what lies there has changed. */
  laid = 0;
  private connects = 0;
  private askedAt: number | undefined;

  constructor(
    private readonly tray: Tray,
    private readonly draw: Draw,
  ) {}

  get cards(): readonly string[] {
    return this.lying;
  }

  /** Lays credentials on the pad in place of those that were there: none, one, or two at once. */
  lay(ids: readonly string[]): void {
    for (const id of ids)
      if (!this.tray.get(id)) fail('no-chip', `"${id}" has nothing inside that a pad could talk to.`);
    this.disconnect();
    this.lying = [...ids];
    this.laid++;
  }

  /** Whoever works at the pad has asked what lies there. */
  watched(nowMs: number): void {
    this.askedAt = nowMs;
  }

  /** Whether somebody works at the pad, who will select what is laid there. */
  isWatched(nowMs: number): boolean {
    return this.askedAt !== undefined && nowMs - this.askedAt < WATCHED_MS;
  }

  /** Settles when whoever works there has let go of the card that it selected, or has not selected it within a time. */
  async letGo(after: (ms: number) => Promise<void>): Promise<void> {
    const began = this.connects;
    for (let waited = 0; waited < LET_GO_MS; waited += LOOK_MS) {
      if (this.connects > began && !this.selected) return;
      if (this.connects === began && waited > SELECTED_MS) return;
      await after(LOOK_MS);
    }
  }

  /** The credential is torn away at the next command, or so many commands later. */
  tearAtNext(tear: Tear, after = 0): void {
    this.tear = tear;
    this.tearIn = after;
  }

  /** Selects the one card in the field, or the one tag where there is no card. Throws `no-card` and `two-cards`. */
  connect(): Connected {
    this.disconnect();
    const field = this.lying.map((id) => ({ key: id, memory: this.tray.get(id)!.memory }));
    const found = selectOne(field, this.draw);
    if (found === 'no card') return this.connectTag();
    if (found === 'two cards') return fail('two-cards', 'There are two cards on the pad.', undefined, 'Take one away.');
    this.connects++;
    const { memory } = this.tray.get(found.key)!;
    if (memory.kind !== 'tag')
      this.selected = {
        id: found.key,
        card: memory.kind === 'files' ? new FilesCard(memory) : new SectorsCard(memory),
      };
    return { ...found.selection, isTag: false };
  }

  private connectTag(): Connected {
    const [tag, another] = this.lying.flatMap((id) => {
      const { memory } = this.tray.get(id)!;
      return memory.kind === 'tag' ? [{ id, memory }] : [];
    });
    if (!tag) return fail('no-card', 'There is no card on the pad.', undefined, 'Lay one on.');
    if (another) return fail('two-cards', 'There are two tags on the pad.', undefined, 'Take one away.');
    this.connects++;
    this.selected = { id: tag.id, card: new Tag(tag.memory) };
    const none = new Uint8Array(0);
    const uid = Uint8Array.from(
      (tag.memory.trace ?? [0, 0]).flatMap((word) => [word >>> 24, word >>> 16, word >>> 8, word]),
    );
    return { uid, atqa: none, sak: 0, ats: none, isTag: true };
  }

  disconnect(): void {
    this.selected?.card.powerOff();
    this.selected = undefined;
  }

  /** One APDU, or one native command of a file-system card; its answer, status included. */
  transmit(apdu: Uint8Array): Uint8Array {
    return this.command((card) =>
      card instanceof FilesCard
        ? card.transmit(apdu, this.draw)
        : fail('no-apdu', 'This card takes no APDUs.', undefined, 'It takes frames of its own commands.'),
    );
  }

  /** One frame of a sector card; its answer, empty where it only acknowledges. Throws `refused` with why. */
  transmitRaw(frame: Uint8Array): Uint8Array {
    return this.command((card) => {
      if (card instanceof FilesCard) return card.transmit(frame, this.draw);
      if (card instanceof Tag) return fail('no-frames', 'A tag takes frames of bits alone.');
      try {
        return sectorFrame(card, frame);
      } catch (error) {
        if (!(error instanceof SectorRefused)) throw error;
        return fail('refused', `The card refuses: ${error.why}.`);
      }
    });
  }

  /** A frame of bits to a tag; the bits that are heard of it then. */
  transmitTag(frame: string): string {
    return this.command((card) =>
      card instanceof Tag
        ? hears(card.memory, frame)
        : fail('no-tag', 'This is no tag: it takes no frames of bits.', undefined, 'Lay a rewritable tag on.'),
    );
  }

  /** Carries a command out and keeps what it changed before its answer goes out. */
  private command<A extends Uint8Array | string>(run: (card: Card) => A): A {
    const { selected } = this;
    if (!selected) return gone();
    const tear = this.tearIn-- > 0 ? undefined : this.tear;
    if (tear !== undefined) this.tear = undefined;
    if (tear === 'before') return this.tearAway();
    const { id, card } = selected;
    const before = copied<ChipMemory>(card.memory);
    let answer: A | undefined;
    try {
      answer = run(card);
    } finally {
      // A command that is refused may have changed something, too.
      const after = tear === 'during' ? torn(before, card.memory, this.draw) : card.memory;
      if (keptText(after) !== keptText(before)) this.keep(id, before, after);
      // Torn so that nothing was written: what the model did already is taken back.
      else if (tear === 'during') this.tray.put(id, before);
    }
    return tear === undefined ? answer! : this.tearAway();
  }

  /** What cannot be kept has not happened: the card is as it was, and its session is over. */
  private keep(id: string, before: ChipMemory, after: ChipMemory): void {
    try {
      this.tray.keep(id, after);
    } catch (error) {
      this.tray.put(id, before);
      this.disconnect();
      throw error;
    }
  }

  private tearAway(): never {
    this.disconnect();
    this.lying = [];
    this.laid++;
    return gone();
  }
}
