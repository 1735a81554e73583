/**
 * Supervision: a program is started, and started again with growing pauses when it ends by itself. What cannot be kept
 * running after several tries in a row ends everything.
 */

export interface Running {
  /** Settles when the program has ended, with how it did: a code or a signal. */
  ended: Promise<string>;
  stop(): Promise<void>;
}

export interface Rules {
  /** The pause before the first new start; it doubles with each failure in a row. */
  firstPauseMs: number;
  longestPauseMs: number;
  /** A program that ran this long has recovered: its failures are forgotten. */
  recoveredMs: number;
  mostFailures: number;
}

export const RULES: Rules = { firstPauseMs: 500, longestPauseMs: 30_000, recoveredMs: 60_000, mostFailures: 7 };

export class Supervised {
  private running?: Running;
  private stopped = false;
  private wake?: () => void;
  private failures = 0;
  private watching?: Promise<void>;

  constructor(
    readonly name: string,
    private readonly start: () => Promise<Running>,
    private readonly tell: (sentence: string) => void,
    /** Called once, when the program cannot be kept running. */
    private readonly giveUp: (sentence: string) => void,
    private readonly rules = RULES,
  ) {}

  /** Starts it for the first time; throws what the start throws. */
  async begin(): Promise<void> {
    this.running = await this.start();
    this.watching = this.watch();
  }

  private async watch(): Promise<void> {
    let how = await this.endOf();
    while (!this.stopped) {
      if (++this.failures > this.rules.mostFailures) {
        this.giveUp(
          `The ${this.name} ended ${this.failures} times in a row, the last time with ${how}. Raw Bits stops.`,
        );
        return;
      }
      const { firstPauseMs, longestPauseMs } = this.rules;
      const pauseMs = Math.min(longestPauseMs, firstPauseMs * 2 ** (this.failures - 1));
      this.tell(`The ${this.name} ended (${how}); it is started again in ${pauseMs / 1000} s.`);
      await this.pause(pauseMs);
      if (this.stopped) return;
      how = await this.again();
    }
  }

  /** Starts it once more and waits for its end; gives how it ended, or why it did not start. */
  private async again(): Promise<string> {
    try {
      this.running = await this.start();
    } catch (error) {
      this.running = undefined;
      return (error as Error).message;
    }
    // The end may have come while it was starting.
    if (this.stopped) await this.running.stop();
    else this.tell(`The ${this.name} runs again.`);
    return this.endOf();
  }

  private async endOf(): Promise<string> {
    const began = Date.now();
    const how = await this.running!.ended;
    if (Date.now() - began >= this.rules.recoveredMs) this.failures = 0;
    return how;
  }

  private pause(ms: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, ms);
      this.wake = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  }

  /** From now on its end is nothing to mend. */
  expectEnd(): void {
    this.stopped = true;
    this.wake?.();
  }

  /** Ends it for good, also one that is just being started again. */
  async stop(): Promise<void> {
    this.expectEnd();
    await this.running?.stop();
    await this.watching;
  }
}
