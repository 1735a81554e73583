/**
 * A rewritable tag that an exchange is played on. Passwords go in the clear, so that nothing is kept of a frame that has one:
 * once a block was written by such a frame what follows can be held against nothing.
 */
import type { ExchangeLine } from '../host/index.ts';
import { keptTagFrame, wordsHeard } from '../host/index.ts';
import { hears, type TagMemory } from '../lf/index.ts';
import type { Simulated } from './replay.ts';

export class ReplayedTag implements Simulated {
  private isKnown = true;
  /** Blocks that were cut short as they were written. */
  private readonly cut = new Set<number>();

  constructor(private readonly memory: TagMemory) {}

  /** Nothing of a tag goes with the field. */
  powerOff(): void {}

  cutShort({ command }: ExchangeLine): void {
    this.cut.add(blockIn(command));
  }

  async play({ command, answer }: ExchangeLine): Promise<string | undefined> {
    const kept = keptTagFrame(command);
    if (!kept) return 'no frame of a tag';
    const { name, frame } = kept;
    if (frame === undefined) {
      if (!name.startsWith('read')) this.isKnown = false;
      return undefined;
    }
    const block = blockIn(command);
    if (this.isKnown && this.cut.delete(block) && name.startsWith('read') && /^[0-9A-F]{8}$/.test(answer))
      this.memory.blocks[block] = Number.parseInt(answer, 16);
    const heard = hears(this.memory, frame);
    return this.isKnown ? wordsHeard(heard) : undefined;
  }
}

/** The block that a line names; -1 where it names none. */
const blockIn = (command: string): number => Number(/block (\d)/.exec(command)?.[1] ?? -1);
