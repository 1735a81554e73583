/**
 * Bringing a rewritable tag to a plan: first what it sends, then its password, then the configuration that turns it on, and the
 * locks last, once everything was read back. A password in force is turned off before it is changed, so that a tag that
 * was torn away in between is finished by the same steps. Locks cannot be read: they are set each time, which changes nothing
 * where they are set already.
 */
import { wordOf } from '../../cipher/index.ts';
import { fail } from '../../failure/index.ts';
import type { TagHost } from '../../host/index.ts';
import { configurationIn } from '../../lf/index.ts';
import type { CardStep } from '../bring/index.ts';
import type { Known } from '../fields/index.ts';
import { configurationWord, contentsOf, lockedBlocks, PASSWORD_BLOCK, type TagPlan } from './plan.ts';

/** A password of a plan, four bytes, as it is to be and as it may be from before; undefined where it is not at hand. */
export type TagRing = (name: string) => { now: Uint8Array; before: readonly Uint8Array[] } | undefined;

export interface TagBringing {
  plan: TagPlan;
  /** The plan that it has from before, whole. */
  was?: TagPlan;
  ring: TagRing;
  known: Known;
  /** Is waited for before each frame that changes the tag; what it throws ends it there. */
  before?(step: CardStep): Promise<void> | void;
}

const THE_TAG = 'the tag';

/** Brings a tag along; gives the steps that were taken. */
export const bringTag = (host: TagHost, about: TagBringing): Promise<CardStep[]> =>
  new TagBringer(host, about, false).bring();

/** What differs, without changing anything. What is locked no tag tells. */
export const compareTag = (host: TagHost, about: TagBringing): Promise<CardStep[]> =>
  new TagBringer(host, about, true).bring();

/** Takes a tag back: its blocks are zeros and it sends nothing, but for what is locked; gives what stays for good. */
export const freeTag = (host: TagHost, about: Omit<TagBringing, 'known' | 'was'>): Promise<string[]> =>
  new TagBringer(host, { ...about, known: { values: {} } }, false).free();

/** Whether a tag is as a blank is: nothing in its blocks, and no password. Gives why it is none, or undefined. */
export async function tagNotBlank(host: TagHost): Promise<string | undefined> {
  if ((await host.configuration()) === undefined) return 'This tag is not blank: it has a password, or cannot be read.';
  for (let block = 1; block <= PASSWORD_BLOCK; block++)
    if (await host.read(block)) return `This tag has something on it that nobody here put there, in block ${block}.`;
  return undefined;
}

class TagBringer {
  private readonly steps: CardStep[] = [];
  /** The password in force. */
  private password: number | undefined;

  constructor(
    private readonly host: TagHost,
    private readonly about: TagBringing,
    private readonly looks: boolean,
  ) {}

  async bring(): Promise<CardStep[]> {
    const { plan, was, known } = this.about;
    const contents = contentsOf(plan, known);
    const wanted = this.wantedPassword();
    const there = await this.open();
    for (const [i, word] of contents.words.entries()) await this.block('write block', i + 1, word);
    await this.settle(there, configurationWord(contents, wanted !== undefined), wanted);
    // What the plan before had locked is locked.
    const locked = new Set(was ? lockedBlocks(was) : []);
    if (!this.looks) for (const block of lockedBlocks(plan)) if (!locked.has(block)) await this.lock(block);
    return this.steps;
  }

  async free(): Promise<string[]> {
    const { plan } = this.about;
    const locked = new Set(lockedBlocks(plan));
    const there = await this.open();
    for (let block = 1; block < PASSWORD_BLOCK; block++)
      if (!locked.has(block)) await this.block('write block', block, 0);
    if (!locked.has(0)) await this.settle(there, 0, undefined);
    if (locked.size === 0) return [];
    return [`Blocks ${[...locked].sort().join(', ')} of the tag are locked for good.`];
  }

  /** The configuration and the password, in the order that leaves it open to whoever has one of the two. */
  private async settle(there: number, configuration: number, wanted: number | undefined): Promise<void> {
    const password = (await this.host.read(PASSWORD_BLOCK, this.password)) ?? 0;
    const isOther = password !== (wanted ?? 0);
    // Off before it is changed: torn away in the middle of it, the tag could have one that nobody knows.
    if (isOther && configurationIn(there).hasPassword && !this.looks)
      await this.configure(configurationWithout(there), undefined);
    if (isOther) await this.block('change key', PASSWORD_BLOCK, wanted ?? 0);
    const now = await this.host.read(0, this.password);
    if (now !== configuration) await this.configure(configuration, wanted);
  }

  private async configure(word: number, password: number | undefined): Promise<void> {
    await this.act({ do: 'set the configuration', application: THE_TAG }, async () => {
      await this.host.write(0, word, this.guarded());
      this.password = password;
      if ((await this.host.read(0, password)) !== word) this.notWritten(0);
    });
  }

  /** A block is to hold a word. */
  private async block(what: 'write block' | 'change key', block: number, word: number): Promise<void> {
    if ((await this.host.read(block, this.password)) === word) return;
    const step: CardStep = { do: what, application: THE_TAG, ...(what === 'write block' && { block }) };
    await this.act(step, async () => {
      await this.host.write(block, word, this.guarded());
      if ((await this.host.read(block, this.password)) !== word) this.notWritten(block);
    });
  }

  private async lock(block: number): Promise<void> {
    const word = await this.host.read(block, this.password);
    if (word === undefined) return this.notWritten(block);
    await this.act({ do: 'lock block', application: THE_TAG, block }, async () => {
      await this.host.write(block, word, { ...this.guarded(), lock: true });
      if ((await this.host.read(block, this.password)) !== word) this.notWritten(block);
    });
  }

  private guarded(): { password?: number } {
    return this.password === undefined ? {} : { password: this.password };
  }

  private notWritten(block: number): never {
    return fail(
      'not-written',
      `Block ${block} of the tag does not hold what was written to it: it is locked, or the tag was moved.`,
      { field: 'card' },
      'Lay it on again in the middle of the pad; if it stays so, take another tag.',
    );
  }

  private async act(step: CardStep, work: () => Promise<void>): Promise<void> {
    if (!this.looks) {
      await this.about.before?.(step);
      await work();
    }
    this.steps.push(step);
  }

  private wantedPassword(): number | undefined {
    const { password } = this.about.plan;
    if (password === null) return undefined;
    const key =
      this.about.ring(password) ??
      fail('key-not-at-hand', `The password "${password}" is not at hand.`, { field: 'keys' });
    return wordOf(key.now);
  }

  /** Finds out by which password it can be read, if it has one; gives its configuration. */
  private async open(): Promise<number> {
    const plain = await this.host.configuration();
    if (plain !== undefined) return plain;
    const names = [this.about.plan, this.about.was].flatMap((plan) => plan?.password ?? []);
    for (const name of new Set(names)) {
      const ring = this.about.ring(name);
      for (const bytes of ring ? [ring.now, ...ring.before] : []) {
        const word = await this.host.read(0, wordOf(bytes));
        if (word === undefined) continue;
        this.password = wordOf(bytes);
        return word;
      }
    }
    return fail(
      'key-not-there',
      'The tag has a password that is none of those at hand.',
      { field: 'card' },
      'It was encoded by somebody else, or with a version that is not in the key store any more.',
    );
  }
}

const PASSWORD_BIT = 1 << 4;
const configurationWithout = (word: number): number => (word & ~PASSWORD_BIT) >>> 0;
