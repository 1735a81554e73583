/** The keys of the selected level as they stand on a card: which of those that may be there each slot has, and who is authenticated. */
import { fail } from '../../failure/index.ts';
import { CardRefusal, type FilesHost, type HostKey } from '../../host/index.ts';
import { wayOf } from './keys.ts';
import type { SlotKeys } from './ring.ts';

const NOT_THE_KEY = 'not-the-card';

export class Level {
  /** What was found in each slot; undefined where none of the keys at hand is there. */
  private readonly found = new Map<number, HostKey | undefined>();
  /** The slot that is authenticated. */
  session: number | undefined;

  constructor(
    private readonly host: FilesHost,
    /** How it is called: `3042F5`, or `the card`. */
    readonly called: string,
    private readonly slots: readonly SlotKeys[],
    /** Is told the plan's name of a key by which something was authenticated. */
    private readonly used: (name: string) => void,
  ) {}

  slot(slot: number): SlotKeys {
    return this.slots[slot] ?? { name: null, wanted: undefined, candidates: [] };
  }

  /** Authenticates by whatever key stands in a slot; false where it is none of those at hand. */
  async enter(slot: number): Promise<boolean> {
    if (this.session === slot) return true;
    if (!this.found.has(slot)) return this.find(slot);
    const key = this.found.get(slot);
    return key !== undefined && this.try(slot, key);
  }

  /** The key that stands in a slot, having authenticated by it. */
  async keyIn(slot: number): Promise<HostKey | undefined> {
    if (this.found.get(slot) === undefined) await this.enter(slot);
    return this.found.get(slot);
  }

  /** Authenticates by a slot or fails, saying what was looked for. */
  async mustEnter(slot: number): Promise<void> {
    if (await this.enter(slot)) return;
    const { name } = this.slot(slot);
    fail(
      'key-not-there',
      `Key ${slot} of ${this.called} is none of those at hand${name === null ? '' : ` for "${name}"`}.`,
      { field: 'card' },
      'It was encoded by somebody else, or with a version that is not in the key store any more.',
    );
  }

  /** A slot has another key from now on; whoever was authenticated by it is no more. */
  changed(slot: number, key: HostKey): void {
    this.found.set(slot, key);
    if (this.session === slot) this.session = undefined;
  }

  /** A command was refused: nobody is authenticated any more. */
  ended(): void {
    this.session = undefined;
  }

  private async find(slot: number): Promise<boolean> {
    for (const key of await this.likeliestFirst(slot)) {
      if (!(await this.try(slot, key))) continue;
      this.found.set(slot, key);
      return true;
    }
    this.found.set(slot, undefined);
    return false;
  }

  /** The version that the card tells of an AES key goes with the key that is tried first. */
  private async likeliestFirst(slot: number): Promise<HostKey[]> {
    const { candidates } = this.slot(slot);
    if (candidates.length < 2 || candidates[0]!.kind !== 'aes128') return candidates;
    try {
      const version = await this.host.keyVersion(slot);
      const rank = (key: HostKey) => (key.kind === 'aes128' && (key.version ?? 0) === version ? 0 : 1);
      return candidates.toSorted((a, b) => rank(a) - rank(b));
    } catch (error) {
      if (!(error instanceof CardRefusal)) throw error;
      this.session = undefined;
      return candidates;
    }
  }

  private async try(slot: number, key: HostKey): Promise<boolean> {
    this.session = undefined;
    try {
      await this.host.authenticate(wayOf(key.kind), slot, key);
    } catch (error) {
      if (error instanceof CardRefusal || (error as { code?: string }).code === NOT_THE_KEY) return false;
      throw error;
    }
    this.session = slot;
    const { name } = this.slot(slot);
    if (name !== null) this.used(name);
    return true;
  }
}
